// List: what is chosen; a press shows all that can be.
#include "surface/control_kind.h"
#include <algorithm>

namespace loom::project::list_control {
namespace {

Sketch sketch(const Drawn& d) {
    using namespace pieces;
    Sketch s;
    const auto& p = d.paint;
    const double sign = std::min(d.height, 40.0);
    const bool two = d.height > p.textSize * 3 && !d.label.empty();
    auto value = label(d, 12, two ? d.height / 2 - 2 : 0, d.width - sign - 16, two ? d.height / 2 : d.height, "{value}",
                       p.ink, p.textSize);
    auto name = label(d, 12, 2, d.width - sign - 16, d.height / 2, d.label, p.ink, p.textSize * 0.85, false);
    value.stand = name.stand = standOf(d.control, Mark::Stand::left);
    Mark held = box(d, mixed(p.fill, p.accent, 0.6), Mark::When::held), hook;
    hook.kind = Mark::Kind::polygon;
    const double x = d.width - sign / 2 - 4, y = d.height / 2;
    hook.points = {{x - 7, y - 4}, {x + 7, y - 4}, {x, y + 5}};
    hook.fill = p.ink;
    s.marks = {box(d, p.fill), held, value, hook};
    if (two)
        s.marks.push_back(name);
    return s;
}

} // namespace

ControlKind declare() {
    ControlKind k;
    k.id = "list", k.label = "List", k.purpose = "What is chosen; a press shows all that can be";
    k.drives = {Drive::Kind::choice};
    k.needed = true;
    k.width = 240, k.height = 64;
    k.touch = Touch::unfold;
    k.role = "combobox";
    k.sketch = sketch;
    return k;
}

} // namespace loom::project::list_control
