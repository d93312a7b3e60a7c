// Fader: a value along a line, upright or level as its box is.
#include "surface/control_kind.h"
#include "surface/letters.h"
#include <algorithm>

namespace loom::project::fader_control {
namespace {

Sketch sketch(const Drawn& d) {
    using namespace pieces;
    Sketch s;
    const auto& p = d.paint;
    const double line = p.textSize * 1.5, pad = std::min(8.0, d.width / 10), thick = std::clamp(d.width / 12, 4.0, 8.0);
    const bool level = d.width > 1.5 * d.height;
    s.marks.push_back(box(d, p.fill));
    Mark rail, travel, thumb;
    for (Mark* m : {&rail, &travel})
        m->corner = thick / 2, m->fill = m == &rail ? mixed(p.fill, p.ink, 0.25) : p.accent;
    travel.when = thumb.when = Mark::When::known;
    thumb.fill = p.ink;
    if (level) {
        const double wide = std::clamp(d.height / 3, 10.0, 18.0), x0 = pad + wide / 2,
                     x1 = std::max(x0, d.width - pad - wide / 2), y = line + (d.height - line) / 2;
        rail.x = x0, rail.y = y - thick / 2, rail.width = x1 - x0, rail.height = thick;
        travel.x = x0, travel.y = rail.y, travel.width = {0, x1 - x0}, travel.height = thick;
        const double high = std::clamp(d.height - line - 2 * pad, 8.0, 36.0);
        thumb.x = {x0 - wide / 2, x1 - x0}, thumb.y = y - high / 2, thumb.width = wide, thumb.height = high;
        thumb.corner = wide / 2;
        s.track = {x0, y, x1, y};
        auto name = label(d, pad, pad / 2, d.width * 0.62 - pad, line, d.label, p.ink, p.textSize);
        name.stand = standOf(d.control, Mark::Stand::left);
        auto value = label(d, d.width * 0.62, pad / 2, d.width * 0.38 - pad, line, "{value}", p.ink, p.textSize, false);
        value.stand = Mark::Stand::right, value.figures = true;
        s.marks.insert(s.marks.end(), {rail, travel, thumb, name, value});
        return s;
    }
    // A name that is too long for one line has two.
    auto name = label(d, pad / 2, pad, d.width - pad, line, d.label, p.ink, p.textSize);
    if (setText(name, d.label, d.width - pad, line).cut)
        name.height = 2 * line;
    const double high = std::clamp(d.width / 5, 12.0, 20.0), top = pad + name.height.at + high / 2 + 4,
                 bottom = std::max(top, d.height - pad - line - high / 2 - 4), x = d.width / 2;
    rail.x = x - thick / 2, rail.y = top, rail.width = thick, rail.height = std::max(1.0, bottom - top);
    travel.x = rail.x, travel.y = {bottom, top - bottom}, travel.width = thick, travel.height = {0, bottom - top};
    const double wide = std::clamp(d.width * 0.5, 12.0, 48.0);
    thumb.x = x - wide / 2, thumb.y = {bottom - high / 2, top - bottom}, thumb.width = wide, thumb.height = high;
    thumb.corner = high / 2;
    s.track = {x, bottom, x, top};
    auto value = label(d, 0, d.height - pad - line, d.width, line, "{value}", p.ink, p.textSize, false);
    value.stand = Mark::Stand::centre, value.figures = true;
    s.marks.insert(s.marks.end(), {rail, travel, thumb, name, value});
    return s;
}

} // namespace

ControlKind declare() {
    ControlKind k;
    k.id = "fader", k.label = "Fader", k.purpose = "A value along a line";
    k.drives = {Drive::Kind::range};
    k.needed = true;
    k.width = 84, k.height = 232;
    k.touch = Touch::slide;
    k.role = "slider";
    k.sketch = sketch;
    return k;
}

} // namespace loom::project::fader_control
