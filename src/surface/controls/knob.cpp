// Knob: a value round an arc; the finger moves up and down.
#include "surface/control_kind.h"
#include <algorithm>

namespace loom::project::knob_control {
namespace {

Sketch sketch(const Drawn& d) {
    using namespace pieces;
    constexpr double begins = -135, turns = 270; // degrees clockwise from the top
    Sketch s;
    const auto& p = d.paint;
    const double line = p.textSize * 1.5, pad = 6;
    const double size = std::max(8.0, std::min(d.width - 2 * pad, d.height - line - 2 * pad)), x = (d.width - size) / 2,
                 y = line + (d.height - line - size) / 2;
    Mark rail, travel, value = label(d, x, y, size, size, "{value}", p.ink, p.textSize, false);
    value.figures = true, value.stand = Mark::Stand::centre;
    for (Mark* m : {&rail, &travel}) {
        m->kind = Mark::Kind::arc;
        m->x = x + 4, m->y = y + 4, m->width = size - 8, m->height = size - 8;
        m->from = begins, m->sweep = turns;
        m->edgeWidth = std::clamp(size / 12, 4.0, 12.0);
        m->edge = mixed(p.fill, p.ink, 0.25);
    }
    travel.edge = p.accent, travel.sweep = {0, turns}, travel.when = Mark::When::known;
    s.marks = {box(d, p.fill), rail, travel, value,
               label(d, pad / 2, pad / 2, d.width - pad, line, d.label, p.ink, p.textSize)};
    s.track = {0, d.height, 0, 0};
    return s;
}

} // namespace

ControlKind declare() {
    ControlKind k;
    k.id = "knob", k.label = "Knob", k.purpose = "A value round an arc";
    k.drives = {Drive::Kind::range};
    k.needed = true;
    k.width = 110, k.height = 130;
    k.touch = Touch::turn;
    k.role = "slider";
    k.sketch = sketch;
    return k;
}

} // namespace loom::project::knob_control
