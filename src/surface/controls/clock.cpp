// Clock: the time of day.
#include "surface/control_kind.h"

namespace loom::project::clock_control {
namespace {

Sketch sketch(const Drawn& d) {
    using namespace pieces;
    Sketch s;
    const auto& look = d.control.look;
    if (!look.fill.empty() || !look.edge.empty())
        s.marks.push_back(box(d, look.fill.empty() ? Colour{0, 0, 0, 0} : d.paint.fill));
    auto time = label(d, 0, 0, d.width, d.height, "{value}", d.paint.ink, d.paint.textSize, false);
    time.figures = true, time.stand = standOf(d.control, Mark::Stand::right);
    s.marks.push_back(time);
    return s;
}

} // namespace

ControlKind declare() {
    ControlKind k;
    k.id = "clock", k.label = "Clock", k.purpose = "The time of day";
    k.width = 110, k.height = 40;
    k.clock = true;
    k.role = "timer";
    k.sketch = sketch;
    return k;
}

} // namespace loom::project::clock_control
