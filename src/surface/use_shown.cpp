// What a surface in use shows: values, scenes, lines, lanes, responses.
#include "surface/use.h"
#include <algorithm>
#include <cmath>

namespace loom::project {

namespace {

constexpr int responsePoints = 97; // 20 Hz to 20 kHz, evenly by octaves
constexpr double openLaneDb = -6;  // an automatic mixer's lane counts as open from there on

bool liesOn(const Ply& ply, const Control& c) {
    return std::any_of(ply.controls.begin(), ply.controls.end(), [&](const Control& one) { return one.id == c.id; });
}

} // namespace

bool isBusy(const std::string& line) {
    return line == "in a call" || line == "dialling" || line == "rings there" || line == "on hold";
}

const std::optional<Drive>& SurfaceUse::drive(const std::string& path) const {
    const auto it = drives_.find(path);
    return it != drives_.end()
               ? it->second
               : drives_.emplace(path, path.empty() ? std::nullopt : controlDrive(project_, path)).first->second;
}

std::optional<double> SurfaceUse::read(const Drive& d) const {
    if (d.kind == Drive::Kind::line) {
        const auto how = values_.line(d);
        return how.empty() ? std::nullopt : std::optional(isBusy(how) ? 1.0 : 0.0);
    }
    if (d.kind == Drive::Kind::cue)
        return {};
    if (d.kind != Drive::Kind::scene)
        return values_.now(d);
    const auto* scene = project_.scene(d.param);
    if (!scene || scene->values.empty())
        return {};
    std::size_t held = 0, known = 0;
    for (const auto& [path, then] : scene->values) {
        const auto& one = drive(path);
        const auto now = one && isValue(*one) ? values_.now(*one) : std::nullopt;
        if (!now)
            continue;
        ++known;
        held += std::abs(*now - then) <= std::max(1e-6, one->spec.step / 2);
    }
    return known == 0 ? std::nullopt : std::optional(static_cast<double>(held) / static_cast<double>(known));
}

std::optional<double> SurfaceUse::value(const std::string& path) const {
    const auto& d = drive(path);
    return d ? read(*d) : std::nullopt;
}

// `without`: where there is no condition, or none that can be read.
bool SurfaceUse::holds(const std::string& text, bool without) const {
    if (text.empty())
        return without;
    auto it = conditions_.find(text);
    if (it == conditions_.end()) {
        const auto read = readCondition(text);
        it = conditions_.emplace(text, read ? *read : std::nullopt).first;
    }
    return it->second ? isMet(*it->second, [this](const std::string& path) { return value(path); }) : without;
}

bool SurfaceUse::seen(const Control& c) const {
    return holds(c.shown, true);
}

std::vector<double> SurfaceUse::lanes(const Drive& d) const {
    std::vector<double> all;
    Drive lane = d;
    lane.kind = Drive::Kind::reading;
    for (std::size_t i = 0; i < d.lanes.size(); ++i) {
        lane.readout = d.readout + static_cast<int>(i);
        lane.param = "lane " + std::to_string(i + 1);
        lane.path = d.device + "/" + d.block + "@" + lane.param;
        const auto now = values_.now(lane);
        all.push_back(!now ? -1 : *now > openLaneDb ? 1 : 0);
    }
    return all;
}

const std::vector<double>& SurfaceUse::response(const Drive& d) const {
    static const std::vector<double> none;
    const auto* device = project_.device(d.device);
    const auto* b = device && device->program ? device->program->find(d.block) : nullptr;
    if (!b)
        return none;
    engine::BlockView view(*b);
    for (std::size_t i = 0; i < view.values.size(); ++i)
        if (const auto& one = drive(d.device + "/" + d.block + "." + view.table->specs()[i].id))
            if (const auto now = values_.now(*one))
                view.values[i] = *now;
    auto& curve = curves_[d.path];
    if (curve.points.empty() || curve.values != view.values) {
        curve.values = view.values;
        curve.points.resize(responsePoints);
        for (int i = 0; i < responsePoints; ++i) {
            const double hz = 20 * std::pow(1000.0, i / static_cast<double>(responsePoints - 1));
            const double db = 20 * std::log10(std::max(1e-9, std::abs(view.response(0, 0, hz, device->rate))));
            curve.points[static_cast<std::size_t>(i)] =
                std::clamp((db - d.spec.min) / (d.spec.max - d.spec.min), 0.0, 1.0);
        }
    }
    return curve.points;
}

SurfaceUse::Shown SurfaceUse::shownOf(const Control& c, const Drive& d) const {
    Shown s;
    if (d.kind == Drive::Kind::lanes) {
        s.series = lanes(d);
        s.known = std::any_of(s.series.begin(), s.series.end(), [](double v) { return v >= 0; });
        const auto open = std::count_if(s.series.begin(), s.series.end(), [](double v) { return v >= 0.5; });
        s.text = s.known ? std::to_string(open) + " open" : "\u2013";
        return s;
    }
    if (d.kind == Drive::Kind::response) {
        s.series = response(d);
        s.known = !s.series.empty();
        return s;
    }
    if (d.kind == Drive::Kind::line) {
        const auto how = values_.line(d);
        const auto typed = typed_.find(c.id);
        s.known = !how.empty();
        s.on = isBusy(how);
        s.text = typed != typed_.end() && !typed->second.empty() ? typed->second : s.known ? how : "\u2013";
        return s;
    }
    if (d.kind == Drive::Kind::cue) { // a moment shows nothing
        s.known = true;
        return s;
    }
    const auto now = read(d);
    if (!now) {
        s.text = "\u2013";
        return s;
    }
    const auto range = rangeOf(d, c);
    s.known = true;
    s.t = positionOf(d, range, *now);
    s.text = d.kind == Drive::Kind::scene ? (*now >= 1  ? "is on"
                                             : *now > 0 ? "partly on"
                                                        : "is off")
                                          : textOf(d, range, *now);
    const bool whole = d.kind != Drive::Kind::scene && (c.kind == "press");
    s.on = d.kind == Drive::Kind::scene ? *now >= 1 : whole ? std::abs(*now - c.value) < 1e-6 : *now >= 0.5;
    s.mixed = d.kind == Drive::Kind::scene && *now > 0 && *now < 1;
    if (d.kind == Drive::Kind::choice)
        s.chosen = static_cast<int>(std::lround(*now));
    return s;
}

SurfaceUse::Shown SurfaceUse::shown(const Control& c) const {
    Shown s;
    const auto* kind = findControlKind(c.kind);
    if (const auto& d = drive(c.param)) {
        s = shownOf(c, *d);
    } else if (c.param.empty()) {
        s.known = true;
        if (kind && kind->clock)
            s.text = values_.time();
    } else {
        s.text = "\u2013"; // what drives it is gone
    }
    if (const auto* p = page(); p && !c.ply.empty() && c.param.empty())
        for (const auto& ply : p->plies)
            s.on = s.on || (ply.id == c.ply && isOpen(ply) && !liesOn(ply, c)); // one that closes it is not lit by it
    s.enabled = holds(c.enabled, true);
    for (const auto& [finger, f] : fingers_)
        if (f.control == c.id && !f.over)
            s.held.insert(std::max(f.part, 0));
    if (kind && kind->lately > 0)
        if (const auto it = lately_.find(c.id); it != lately_.end())
            s.series.assign(it->second.begin(), it->second.end());
    const auto& p = c.pictures;
    s.picture = !s.held.empty() && !p.held.empty() ? p.held
                : !s.known                         ? p.unknown
                : s.mixed                          ? p.mixed
                : s.on                             ? p.on
                                                   : p.off;
    if (s.picture.empty())
        s.picture = p.always;
    return s;
}

} // namespace loom::project
