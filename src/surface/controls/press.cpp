// Button: sets a value, or opens a page or a ply.
#include "surface/control_kind.h"

namespace loom::project::press_control {
namespace {

Sketch sketch(const Drawn& d) {
    using namespace pieces;
    Sketch s;
    const auto& p = d.paint;
    s.marks = {box(d, p.fill), box(d, p.accent, Mark::When::on),
               box(d, mixed(p.fill, p.accent, 0.6), Mark::When::held)};
    for (const auto when : {Mark::When::off, Mark::When::on, Mark::When::unknown}) {
        auto name =
            label(d, 6, 0, d.width - 12, d.height, d.label, when == Mark::When::on ? p.onAccent : p.ink, p.textSize);
        name.when = when;
        s.marks.push_back(name);
    }
    return s;
}

} // namespace

ControlKind declare() {
    ControlKind k;
    k.id = "press", k.label = "Button", k.purpose = "Sets a value, or opens a page or a ply";
    k.drives = {Drive::Kind::range, Drive::Kind::onOff, Drive::Kind::choice};
    k.needed = false;
    k.width = 150, k.height = 74;
    k.touch = Touch::press;
    k.role = "button";
    k.sketch = sketch;
    return k;
}

} // namespace loom::project::press_control
