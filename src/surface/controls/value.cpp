// Value: what it is now, in words or figures.
#include "surface/control_kind.h"

namespace loom::project::value_control {
namespace {

Sketch sketch(const Drawn& d) {
    using namespace pieces;
    Sketch s;
    const auto& p = d.paint;
    const bool two = d.height > p.textSize * 3 && !d.label.empty();
    auto value = label(d, 6, two ? d.height / 2 : 0, d.width - 12, two ? d.height / 2 : d.height, "{value}", p.ink,
                       p.textSize, false);
    value.figures = true;
    s.marks = {box(d, p.fill), value};
    if (two)
        s.marks.push_back(label(d, 6, 0, d.width - 12, d.height / 2, d.label, p.ink, p.textSize));
    return s;
}

} // namespace

ControlKind declare() {
    ControlKind k;
    k.id = "value", k.label = "Value", k.purpose = "What a parameter is now, in words or figures";
    k.drives = {Drive::Kind::range, Drive::Kind::onOff, Drive::Kind::choice, Drive::Kind::reading};
    k.needed = true;
    k.width = 150, k.height = 64;
    k.role = "status";
    k.sketch = sketch;
    return k;
}

} // namespace loom::project::value_control
