// Steps: one less, one more.
#include "surface/control_kind.h"
#include <algorithm>

namespace loom::project::steps_control {
namespace {

Sketch sketch(const Drawn& d) {
    using namespace pieces;
    Sketch s;
    const auto& p = d.paint;
    const double button = std::min(d.height, d.width / 3), line = p.textSize * 1.4;
    s.marks.push_back(box(d, p.fill));
    for (const int more : {0, 1}) {
        Mark key = box(d, mixed(p.fill, p.ink, 0.14)), held = key, sign;
        for (Mark* m : {&key, &held})
            m->x = more ? d.width - button : 0.0, m->width = button, m->height = d.height, m->part = more,
            m->edgeWidth = 0;
        held.fill = p.accent, held.when = Mark::When::held;
        sign = label(d, key.x.at, 0, button, d.height, more ? "+" : "\u2212", p.ink, p.textSize * 1.5);
        sign.stand = Mark::Stand::centre;
        s.marks.insert(s.marks.end(), {key, held, sign});
    }
    const double x = button + 4, wide = d.width - 2 * button - 8;
    auto value = label(d, x, d.height / 2, wide, line, "{value}", p.ink, p.textSize, false);
    value.figures = true, value.stand = Mark::Stand::centre;
    s.marks.push_back(label(d, x, d.height / 2 - line, wide, line, d.label, p.ink, p.textSize));
    s.marks.push_back(value);
    s.parts = 2;
    return s;
}

} // namespace

ControlKind declare() {
    ControlKind k;
    k.id = "steps", k.label = "Steps", k.purpose = "One step less, one more";
    k.drives = {Drive::Kind::range};
    k.needed = true;
    k.width = 220, k.height = 64;
    k.touch = Touch::step;
    k.role = "spinbutton";
    k.sketch = sketch;
    return k;
}

} // namespace loom::project::steps_control
