#include "surface/use.h"
#include <algorithm>
#include <cmath>

namespace loom::project {

namespace {

constexpr double turnPixels = 200; // that a finger moves from the least to the most

} // namespace

SurfaceUse::SurfaceUse(Project project, std::string surface, SurfaceValues& values)
    : project_(std::move(project)), surface_(std::move(surface)), values_(values) {
    start();
}

void SurfaceUse::start() {
    const auto* s = surface();
    page_.clear();
    turned_.clear();
    if (!s || s->pages.empty())
        return;
    page_ = s->page(s->start) ? s->start : s->pages.front().id;
}

void SurfaceUse::follow(Project project) {
    project_ = std::move(project);
    if (!page())
        start();
    std::erase_if(fingers_, [&](const auto& f) { return !page() || !page()->control(f.second.control); });
    if (asked_ && (!page() || !page()->control(*asked_)))
        asked_.reset();
}

const SurfacePage* SurfaceUse::page() const {
    const auto* s = surface();
    return s ? s->page(page_) : nullptr;
}

bool SurfaceUse::open(const std::string& id) {
    const auto* s = surface();
    const auto* p = s ? s->page(id) : nullptr;
    if (!p || (!p->roles.empty() && std::find(p->roles.begin(), p->roles.end(), role_) == p->roles.end()))
        return false;
    page_ = id;
    turned_.clear();
    fingers_.clear();
    return true;
}

void SurfaceUse::be(const std::string& role) {
    role_ = role;
    if (const auto* p = page(); p && !open(p->id))
        start();
}

bool SurfaceUse::isOpen(const Ply& ply) const {
    if (const auto c = readCondition(ply.shown); c && *c)
        return isMet(**c, [this](const std::string& path) { return value(path); });
    return ply.closed == (turned_.count(ply.id) > 0);
}

void SurfaceUse::turnPly(const std::string& ply) {
    if (!turned_.erase(ply))
        turned_.insert(ply);
}

std::optional<Drive> SurfaceUse::driveFor(const Control& c) const {
    return c.param.empty() ? std::nullopt : driveOf(project_, c.param);
}

std::optional<double> SurfaceUse::value(const std::string& path) const {
    const auto d = driveOf(project_, path);
    return d ? values_.now(*d) : std::nullopt;
}

bool SurfaceUse::seen(const Control& c) const {
    const auto condition = readCondition(c.shown);
    return !condition || !*condition || isMet(**condition, [this](const std::string& path) { return value(path); });
}

SurfaceUse::Shown SurfaceUse::shown(const Control& c) const {
    Shown s;
    if (const auto condition = readCondition(c.enabled); condition && *condition)
        s.enabled = isMet(**condition, [this](const std::string& path) { return value(path); });
    for (const auto& [finger, f] : fingers_)
        if (f.control == c.id)
            s.held.insert(std::max(f.part, 0));
    const auto d = driveFor(c);
    const auto now = d ? values_.now(*d) : std::nullopt;
    if (!now) {
        s.known = c.param.empty();
        s.text = s.known ? "" : "\u2013";
        if (const auto* p = page(); p && !c.ply.empty())
            for (const auto& ply : p->plies)
                s.on = s.on || (ply.id == c.ply && isOpen(ply));
        return s;
    }
    const auto range = rangeOf(*d, c);
    s.known = true;
    s.t = positionOf(*d, range, *now);
    s.text = textOf(*d, range, *now);
    s.on = c.kind == "press" ? std::abs(*now - c.value) < 1e-6 : *now >= 0.5;
    if (d->kind == Drive::Kind::choice)
        s.chosen = static_cast<int>(std::lround(*now));
    return s;
}

const Control* SurfaceUse::at(double x, double y) const {
    const auto* p = page();
    if (!p)
        return nullptr;
    for (std::size_t i = p->plies.size(); i-- > 0;) {
        if (!isOpen(p->plies[i]))
            continue;
        for (std::size_t k = p->plies[i].controls.size(); k-- > 0;) {
            const auto& c = p->plies[i].controls[k];
            const auto* kind = findControlKind(c.kind);
            if (kind && kind->touch != Touch::none && !c.through && x >= c.x && y >= c.y && x <= c.x + c.width &&
                y <= c.y + c.height && seen(c))
                return &c;
        }
    }
    return nullptr;
}

void SurfaceUse::set(const Control& c, const Drive& d, double v) {
    const auto range = rangeOf(d, c);
    values_.set(d, std::clamp(v, range.low, range.high));
}

void SurfaceUse::act(const Control& c) {
    const auto* kind = findControlKind(c.kind);
    const auto d = driveFor(c);
    if (kind->touch == Touch::toggle && d)
        set(c, *d, values_.now(*d).value_or(0) >= 0.5 ? 0 : 1);
    if (kind->touch == Touch::press && d)
        set(c, *d, c.value);
    if (!c.ply.empty())
        turnPly(c.ply);
    if (!c.page.empty())
        (void)open(c.page);
}

void SurfaceUse::press(int finger, double x, double y) {
    idle_ = 0;
    const auto* c = at(x, y);
    if (!c || asked_ || !shown(*c).enabled)
        return;
    const auto* kind = findControlKind(c->kind);
    const auto sketch = sketchOf(project_, *surface(), *page(), *c);
    const double inX = x - c->x, inY = y - c->y;
    const int part = sketch.parts > 0 ? sketch.partAt(inX, inY) : 0;
    if (part < 0)
        return;
    const auto d = driveFor(*c);
    Finger f{c->id, part, x, y, shown(*c).t};
    fingers_[finger] = f;
    if (kind->touch == Touch::slide && d)
        set(*c, *d, valueAt(*d, rangeOf(*d, *c), sketch.track.at(inX, inY)));
    if (kind->touch == Touch::hold && d)
        set(*c, *d, 1);
    if (kind->touch == Touch::step && d)
        step(*c, part == 1 ? 1 : -1);
    if (kind->touch == Touch::pick && d)
        set(*c, *d, part);
}

void SurfaceUse::move(int finger, double x, double y) {
    const auto it = fingers_.find(finger);
    const auto* c = it != fingers_.end() && page() ? page()->control(it->second.control) : nullptr;
    const auto d = c ? driveFor(*c) : std::nullopt;
    if (!d)
        return;
    const auto* kind = findControlKind(c->kind);
    if (kind->touch == Touch::slide)
        set(*c, *d,
            valueAt(*d, rangeOf(*d, *c), sketchOf(project_, *surface(), *page(), *c).track.at(x - c->x, y - c->y)));
    if (kind->touch == Touch::turn)
        set(*c, *d,
            valueAt(*d, rangeOf(*d, *c), it->second.t + ((it->second.y - y) + (x - it->second.x)) / turnPixels));
    it->second.part = kind->touch == Touch::toggle || kind->touch == Touch::press
                          ? (x >= c->x && y >= c->y && x <= c->x + c->width && y <= c->y + c->height ? 0 : -1)
                          : it->second.part;
}

// Buttons do it when the finger leaves, so that sliding off takes it back.
void SurfaceUse::release(int finger) {
    const auto it = fingers_.find(finger);
    if (it == fingers_.end())
        return;
    const auto f = it->second;
    fingers_.erase(it);
    const auto* c = page() ? page()->control(f.control) : nullptr;
    if (!c)
        return;
    const auto* kind = findControlKind(c->kind);
    if (kind->touch == Touch::hold)
        if (const auto d = driveFor(*c))
            set(*c, *d, 0);
    if ((kind->touch == Touch::toggle || kind->touch == Touch::press) && f.part >= 0)
        click(*c);
}

void SurfaceUse::step(const Control& c, int by) {
    const auto d = driveFor(c);
    if (!d || d->kind == Drive::Kind::reading || !shown(c).enabled)
        return;
    const auto range = rangeOf(*d, c);
    const double now = values_.now(*d).value_or(range.low);
    double step = d->kind == Drive::Kind::range ? d->spec.step : 1;
    if (range.digits >= 0)
        step = std::max(step, std::pow(10, -range.digits));
    if (d->spec.taper == engine::Taper::logarithmic && range.low > 0) // a twelfth of an octave
        return set(c, *d, now * std::pow(2.0, by / 12.0));
    set(c, *d, now + by * step);
}

void SurfaceUse::click(const Control& c) {
    if (!shown(c).enabled)
        return;
    if (c.confirm)
        asked_ = c.id;
    else
        act(c);
}

void SurfaceUse::answer(bool yes) {
    const auto id = std::exchange(asked_, std::nullopt);
    const auto* c = id && page() ? page()->control(*id) : nullptr;
    if (yes && c)
        act(*c);
}

void SurfaceUse::idle(double seconds) {
    const auto* s = surface();
    idle_ += seconds;
    if (!s || s->idleSeconds <= 0 || idle_ < s->idleSeconds || !fingers_.empty())
        return;
    idle_ = 0;
    role_.clear();
    asked_.reset();
    start();
}

} // namespace loom::project
