#include "surface/use.h"
#include "dsp/number.h"
#include "surface/over.h"
#include <algorithm>
#include <cmath>
#include <ctime>

namespace loom::project {

namespace {

constexpr std::size_t longestSaid = 300; // bytes of words over a page
constexpr double turnPixels = 200;       // that a finger moves from the least to the most
constexpr double notedEvery = 0.25;      // s, of what was lately
constexpr double leftAfter = 600;        // s, that nobody touched a surface without such a time of its own
constexpr std::size_t mostTyped = 40;    // signs of a number

} // namespace

std::string SurfaceValues::time() {
    const std::time_t now = std::time(nullptr);
    std::tm there{};
    localtime_r(&now, &there);
    char text[16];
    std::snprintf(text, sizeof text, "%02d:%02d", there.tm_hour, there.tm_min);
    return text;
}

PageBox drawerBox(const Surface& s, const Ply& ply) {
    const double w = s.width, h = s.height;
    const bool upright = ply.edge == "left" || ply.edge == "right";
    const double extent = std::min(ply.extent, upright ? w : h);
    if (upright)
        return {ply.edge == "left" ? 0 : w - extent, 0, extent, h};
    return {0, ply.edge == "top" ? 0 : h - extent, w, extent};
}

SurfaceUse::SurfaceUse(Project project, std::string surface, SurfaceValues& values)
    : project_(std::move(project)), surface_(std::move(surface)), values_(values) {
    start();
}

void SurfaceUse::start() {
    const auto* s = surface();
    page_.clear();
    turned_.clear();
    lately_.clear();
    typed_.clear();
    closeOver();
    if (!s || s->pages.empty())
        return;
    // Never a page that who is here may not see, whatever the design begins with.
    const auto* first = s->page(s->start);
    if (!first || !mayOpen(*first)) {
        const auto it = std::find_if(s->pages.begin(), s->pages.end(), [&](const auto& p) { return mayOpen(p); });
        first = it == s->pages.end() ? nullptr : &*it;
    }
    if (first)
        page_ = first->id;
}

void SurfaceUse::follow(Project project) {
    project_ = std::move(project);
    drives_.clear();
    conditions_.clear();
    curves_.clear();
    if (!page() || !mayOpen(*page()))
        start();
    const auto gone = [&](const std::string& id) { return !page() || !page()->control(id); };
    std::erase_if(fingers_, [&](const auto& f) { return gone(f.second.control); });
    if (asked_ && gone(*asked_))
        asked_.reset();
    if (!over_.empty() && gone(over_))
        closeOver();
}

const SurfacePage* SurfaceUse::page() const {
    const auto* s = surface();
    return s ? s->page(page_) : nullptr;
}

bool SurfaceUse::mayOpen(const SurfacePage& p) const {
    return p.roles.empty() || std::find(p.roles.begin(), p.roles.end(), role_) != p.roles.end();
}

bool SurfaceUse::open(const std::string& id) {
    const auto* s = surface();
    const auto* p = s ? s->page(id) : nullptr;
    if (!p || !mayOpen(*p))
        return false;
    page_ = id;
    wanted_.clear();
    turned_.clear();
    fingers_.clear();
    lately_.clear();
    typed_.clear();
    closeOver();
    return true;
}

void SurfaceUse::be(const std::string& role) {
    role_ = role;
    untouched_ = 0;
    if (!wanted_.empty() && open(std::string(wanted_)))
        return;
    if (const auto* p = page(); !p || !mayOpen(*p))
        start();
}

bool SurfaceUse::isOpen(const Ply& ply) const {
    if (!ply.shown.empty())
        return holds(ply.shown, true);
    return ply.closed == (turned_.count(ply.id) > 0);
}

void SurfaceUse::turnPly(const std::string& ply) {
    if (!turned_.erase(ply))
        turned_.insert(ply);
    untouched_ = 0;
}

void SurfaceUse::obey(const SurfaceOrder& order) {
    using Does = SurfaceOrder::Does;
    if (order.does == Does::say) {
        said_ = order.what.substr(0, longestSaid);
        saidFor_ = order.seconds;
        return;
    }
    if (order.does == Does::page) {
        (void)open(order.what);
        return;
    }
    const auto slash = order.what.find('/');
    const auto* p = page();
    if (!p || slash == std::string::npos || order.what.substr(0, slash) != p->id)
        return;
    for (const auto& ply : p->plies)
        if (ply.id == order.what.substr(slash + 1) && ply.shown.empty() && isOpen(ply) != (order.does == Does::open))
            return turnPly(std::string(ply.id));
}

// ---- fingers ----

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
        if (!p->plies[i].edge.empty() && drawerBox(*surface(), p->plies[i]).has(x, y))
            return nullptr; // nothing is reached through a drawer
    }
    return nullptr;
}

void SurfaceUse::recall(const Scene& scene) {
    for (const auto& [path, v] : scene.values)
        if (const auto d = drive(path); d && isValue(*d))
            values_.set(*d, std::clamp(v, d->spec.min, d->spec.max));
}

void SurfaceUse::set(const Control& c, const Drive& d, double v) {
    if (d.kind == Drive::Kind::scene || d.kind == Drive::Kind::cue) {
        const auto* scene = d.kind == Drive::Kind::scene ? project_.scene(d.param) : nullptr;
        if (!values_.give(d) && scene) // nobody recalls scenes there
            recall(*scene);
        return;
    }
    if (!isValue(d) || !std::isfinite(v))
        return;
    const auto range = rangeOf(d, c);
    values_.set(d, std::clamp(v, range.low, range.high));
}

void SurfaceUse::act(const Control& control) {
    const Control c = control; // setting something may change the design
    const auto* kind = findControlKind(c.kind);
    const auto d = drive(c.param);
    if (kind->touch == Touch::toggle && d)
        set(c, *d, values_.now(*d).value_or(0) >= 0.5 ? 0 : 1);
    if (kind->touch == Touch::press && d)
        set(c, *d, c.value);
    if (!c.ply.empty())
        turnPly(c.ply);
    if (!c.page.empty() && !open(c.page)) {
        const auto* p = surface()->page(c.page);
        wanted_ = p ? p->id : "";
    }
}

void SurfaceUse::dial(const Control& c, const Drive& d, int part) {
    auto& typed = typed_[c.id];
    const auto how = values_.line(d);
    if (part < 12) {
        const std::string key(1, "123456789*0#"[part]);
        if (how == "in a call")
            values_.call(d, "keys", key);
        else if (typed.size() < mostTyped)
            typed += key;
    } else if (part == 13) {
        if (!typed.empty())
            typed.pop_back();
    } else if (isBusy(how)) {
        values_.call(d, "hang-up", "");
        typed.clear();
    } else if (how == "rings here") {
        values_.call(d, "answer", "");
    } else if (!typed.empty()) {
        values_.call(d, "dial", typed);
        typed.clear();
    }
}

void SurfaceUse::press(int finger, double x, double y) {
    untouched_ = 0;
    if (asked_ || !wanted_.empty() || fingers_.count(finger))
        return;
    if (const auto lies = over()) {
        const int part = lies->partAt(x, y);
        const auto& back = lies->marks.front(); // its panel
        if (part >= 0)
            fingers_[finger] = {over_, part, x, y, 0, true};
        else if (x < back.x.at || y < back.y.at || x > back.x.at + back.width.at || y > back.y.at + back.height.at)
            closeOver();
        return;
    }
    // A press beside a drawer that closes so does nothing else.
    const auto* now = page();
    for (std::size_t i = now ? now->plies.size() : 0; i-- > 0;)
        if (const auto& ply = now->plies[i]; ply.outside && ply.shown.empty() && isOpen(ply) && !ply.edge.empty() &&
                                             !drawerBox(*surface(), ply).has(x, y))
            return turnPly(ply.id);
    const auto* c = at(x, y);
    if (!c || !shown(*c).enabled)
        return;
    const auto* kind = findControlKind(c->kind);
    const auto sketch = sketchOf(project_, *surface(), *page(), *c);
    const double inX = x - c->x, inY = y - c->y;
    const int part = sketch.parts > 0 ? sketch.partAt(inX, inY) : 0;
    if (part < 0)
        return;
    const auto d = drive(c->param);
    fingers_[finger] = {c->id, part, x, y, shown(*c).t, false};
    if (!d)
        return;
    if (kind->touch == Touch::slide)
        set(*c, *d, valueAt(*d, rangeOf(*d, *c), sketch.track.at(inX, inY)));
    if (kind->touch == Touch::hold)
        set(*c, *d, 1);
    if (kind->touch == Touch::step)
        step(*c, part == 1 ? 1 : -1);
    if (kind->touch == Touch::pick)
        set(*c, *d, part);
    if (kind->touch == Touch::dial)
        dial(*c, *d, part);
}

void SurfaceUse::move(int finger, double x, double y) {
    const auto it = fingers_.find(finger);
    if (it == fingers_.end())
        return;
    untouched_ = 0;
    auto& f = it->second;
    if (f.over) {
        const auto lies = over();
        if (!lies || lies->partAt(x, y) != f.part)
            fingers_.erase(it);
        return;
    }
    const auto* c = page() ? page()->control(f.control) : nullptr;
    if (!c)
        return;
    const auto* kind = findControlKind(c->kind);
    if (const auto d = drive(c->param)) {
        if (kind->touch == Touch::slide)
            set(*c, *d,
                valueAt(*d, rangeOf(*d, *c), sketchOf(project_, *surface(), *page(), *c).track.at(x - c->x, y - c->y)));
        if (kind->touch == Touch::turn)
            set(*c, *d, valueAt(*d, rangeOf(*d, *c), f.t + ((f.y - y) + (x - f.x)) / turnPixels));
    }
    const bool slidesOff = kind->touch == Touch::toggle || kind->touch == Touch::press ||
                           kind->touch == Touch::unfold || kind->touch == Touch::type;
    if (slidesOff)
        f.part = x >= c->x && y >= c->y && x <= c->x + c->width && y <= c->y + c->height ? 0 : -1;
}

// Buttons do it when the finger leaves, so that sliding off takes it back.
void SurfaceUse::release(int finger) {
    const auto it = fingers_.find(finger);
    if (it == fingers_.end())
        return;
    const auto f = it->second;
    fingers_.erase(it);
    if (f.over)
        return choose(f.part);
    const auto* c = page() ? page()->control(f.control) : nullptr;
    if (!c)
        return;
    const auto* kind = findControlKind(c->kind);
    if (kind->touch == Touch::hold)
        if (const auto d = drive(c->param))
            set(*c, *d, 0);
    const bool onLeaving = kind->touch == Touch::toggle || kind->touch == Touch::press ||
                           kind->touch == Touch::unfold || kind->touch == Touch::type;
    if (onLeaving && f.part >= 0)
        click(*c);
}

void SurfaceUse::cancel(int finger) {
    const auto it = fingers_.find(finger);
    if (it == fingers_.end())
        return;
    if (it->second.over)
        return void(fingers_.erase(it));
    it->second.part = -1;
    release(finger);
}

// ---- keys ----

void SurfaceUse::step(const Control& c, int by) {
    untouched_ = 0;
    const auto* kind = findControlKind(c.kind);
    // What is only seen, or only pressed, has no steps.
    if (!kind || kind->touch == Touch::none || kind->touch == Touch::press || kind->touch == Touch::hold || asked_ ||
        !wanted_.empty())
        return;
    if (c.confirm && kind->touch == Touch::toggle) // asks first by keys too
        return click(c);
    const auto d = drive(c.param);
    if (!d || !isValue(*d) || !shown(c).enabled)
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
    untouched_ = 0;
    if (!shown(c).enabled || asked_ || !wanted_.empty())
        return;
    const auto* kind = findControlKind(c.kind);
    if (!kind)
        return;
    if (kind->touch == Touch::unfold || kind->touch == Touch::type) {
        over_ = drive(c.param) ? c.id : "";
        overTyped_.clear();
    } else if (kind->touch == Touch::dial) {
        if (const auto d = drive(c.param))
            dial(c, *d, 12);
    } else if (c.confirm) {
        asked_ = c.id;
    } else {
        act(c);
    }
}

void SurfaceUse::key(const Control& c, const std::string& key) {
    const auto* kind = findControlKind(c.kind);
    const auto d = drive(c.param);
    if (!kind || !d || !shown(c).enabled)
        return;
    if (kind->touch == Touch::dial) {
        const auto at = key.size() == 1 ? std::string("123456789*0#").find(key[0]) : std::string::npos;
        if (at != std::string::npos)
            dial(c, *d, static_cast<int>(at));
        else if (key == "back" || key == "enter")
            dial(c, *d, key == "back" ? 13 : 12);
    } else if (kind->touch == Touch::type && key.size() == 1) {
        if (over_ != c.id)
            click(c);
        overKey(key);
    }
}

void SurfaceUse::answer(bool yes) {
    const auto id = std::exchange(asked_, std::nullopt);
    const auto* c = id && page() ? page()->control(*id) : nullptr;
    if (yes && c)
        act(*c);
}

// ---- over the page ----

void SurfaceUse::closeOver() {
    over_.clear();
    overTyped_.clear();
    std::erase_if(fingers_, [](const auto& f) { return f.second.over; });
}

bool SurfaceUse::overNumber() const {
    const auto* c = page() && !over_.empty() ? page()->control(over_) : nullptr;
    const auto* kind = c ? findControlKind(c->kind) : nullptr;
    return kind && kind->touch == Touch::type;
}

std::optional<Sketch> SurfaceUse::over() const {
    const auto* c = page() && !over_.empty() ? page()->control(over_) : nullptr;
    const auto& d = c ? drive(c->param) : drive("");
    if (!c || !d)
        return {};
    const auto paint = paintOf(*surface(), *page(), *c);
    if (!overNumber())
        return choicesOver(*surface(), paint, *c, d->spec.choices);
    const auto range = rangeOf(*d, *c);
    return numberOver(*surface(), paint, *c, textOf(*d, range, range.low) + " \u2026 " + textOf(*d, range, range.high));
}

SurfaceUse::Shown SurfaceUse::overShown() const {
    Shown s;
    if (const auto* c = page() && !over_.empty() ? page()->control(over_) : nullptr) {
        s = shown(*c);
        s.held.clear();
        if (overNumber() && !overTyped_.empty()) {
            s.text = overTyped_;
            if (s.text[0] == '-')
                s.text = "\u2212" + s.text.substr(1);
        }
    }
    for (const auto& [finger, f] : fingers_)
        if (f.over)
            s.held.insert(f.part);
    return s;
}

void SurfaceUse::choose(int part) {
    const auto* c = page() && !over_.empty() ? page()->control(over_) : nullptr;
    const auto d = c ? drive(c->param) : std::nullopt;
    if (!d)
        return closeOver();
    if (overNumber()) {
        if (part >= 0 && part < static_cast<int>(numberKeys().size()))
            overKey(numberKeys()[static_cast<std::size_t>(part)]);
        return;
    }
    if (part < static_cast<int>(d->spec.choices.size()))
        set(*c, *d, part);
    closeOver();
}

void SurfaceUse::overKey(const std::string& key) {
    untouched_ = 0;
    if (over_.empty())
        return;
    if (key == "escape")
        return closeOver();
    if (!overNumber())
        return;
    if (key == "back") {
        if (!overTyped_.empty())
            overTyped_.pop_back();
    } else if (key == "enter") {
        const auto* c = page()->control(over_);
        const auto d = drive(c->param);
        if (const auto typed = wholeNumber(overTyped_); typed && d)
            set(*c, *d, *typed);
        closeOver();
    } else if (key.size() == 1 && overTyped_.size() < mostTyped) {
        if (key == "-")
            overTyped_ = !overTyped_.empty() && overTyped_[0] == '-' ? overTyped_.substr(1) : "-" + overTyped_;
        else if ((key[0] >= '0' && key[0] <= '9') || (key[0] == '.' && overTyped_.find('.') == std::string::npos))
            overTyped_ += key;
    }
}

// ---- time ----

void SurfaceUse::passed(double seconds) {
    const auto* s = surface();
    if (!said_.empty() && (saidFor_ -= seconds) <= 0)
        said_.clear();
    if (const auto* p = page()) {
        sinceNoted_ += seconds;
        if (sinceNoted_ >= notedEvery) {
            sinceNoted_ = 0;
            for (const auto& ply : p->plies)
                for (const auto& c : ply.controls)
                    if (const auto* kind = findControlKind(c.kind); kind && kind->lately > 0) {
                        auto& all = lately_[c.id];
                        const auto& d = drive(c.param);
                        const auto now = d ? read(*d) : std::nullopt;
                        all.push_back(now ? positionOf(*d, rangeOf(*d, c), *now) : -1);
                        while (all.size() > static_cast<std::size_t>(kind->lately))
                            all.pop_front();
                    }
        }
    }
    if (!fingers_.empty())
        untouched_ = 0;
    untouched_ += seconds;
    if (const auto* p = page())
        for (const auto& ply : p->plies)
            if (ply.closesAfter > 0 && untouched_ >= ply.closesAfter && ply.closed && turned_.count(ply.id))
                turned_.erase(ply.id);
    // Who is somebody does not stay so when they have left, whatever the surface does.
    const double limit = s && s->idleSeconds > 0 ? s->idleSeconds : role_.empty() ? 0 : leftAfter;
    if (!s || limit <= 0 || untouched_ < limit || !fingers_.empty())
        return;
    untouched_ = 0;
    role_.clear();
    wanted_.clear();
    asked_.reset();
    start();
}

} // namespace loom::project
