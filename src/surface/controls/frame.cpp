// Frame: a box with a title, for controls that belong together.
#include "surface/control_kind.h"

namespace loom::project::frame_control {
namespace {

Sketch sketch(const Drawn& d) {
    using namespace pieces;
    Sketch s;
    const auto& p = d.paint;
    Mark all = box(d, d.control.look.fill.empty() ? mixed(p.page, p.ink, 0.04) : p.fill);
    auto title = label(d, 14, 6, d.width - 28, p.textSize * 1.8, d.label, p.ink, p.textSize);
    title.stand = standOf(d.control, Mark::Stand::left);
    s.marks = {all, title};
    return s;
}

} // namespace

ControlKind declare() {
    ControlKind k;
    k.id = "frame", k.label = "Frame", k.purpose = "A box with a title, for controls that belong together";
    k.width = 420, k.height = 240;
    k.role = "group";
    k.sketch = sketch;
    return k;
}

} // namespace loom::project::frame_control
