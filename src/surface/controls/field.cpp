// Number field: a value that is typed on keys over the page.
#include "surface/control_kind.h"

namespace loom::project::field_control {
namespace {

Sketch sketch(const Drawn& d) {
    using namespace pieces;
    Sketch s;
    const auto& p = d.paint;
    const bool two = d.height > p.textSize * 3 && !d.label.empty();
    auto value = label(d, 6, two ? d.height / 2 - 4 : 0, d.width - 12, two ? d.height / 2 : d.height, "{value}", p.ink,
                       p.textSize, false);
    value.figures = true;
    Mark line; // as of a form that is filled in
    line.x = 12, line.y = d.height - 9, line.width = std::max(1.0, d.width - 24), line.height = 2;
    line.fill = p.accent;
    s.marks = {box(d, p.fill), box(d, mixed(p.fill, p.accent, 0.6), Mark::When::held), line, value};
    if (two)
        s.marks.push_back(label(d, 6, 2, d.width - 12, d.height / 2 - 4, d.label, p.ink, p.textSize * 0.85));
    return s;
}

} // namespace

ControlKind declare() {
    ControlKind k;
    k.id = "field", k.label = "Number field", k.purpose = "A value that is typed on keys over the page";
    k.drives = {Drive::Kind::range};
    k.needed = true;
    k.width = 150, k.height = 64;
    k.touch = Touch::type;
    k.role = "spinbutton";
    k.sketch = sketch;
    return k;
}

} // namespace loom::project::field_control
