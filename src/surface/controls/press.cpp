// Button: sets a value, or opens a page or a ply.
#include "surface/control_kind.h"

namespace loom::project::press_control {

ControlKind declare() {
    ControlKind k;
    k.id = "press", k.label = "Button",
    k.purpose = "Sets a value, recalls a scene or gives a cue, or opens a page or a ply";
    k.drives = {Drive::Kind::range, Drive::Kind::onOff, Drive::Kind::choice, Drive::Kind::scene, Drive::Kind::cue};
    k.needed = false;
    k.width = 150, k.height = 74;
    k.touch = Touch::press;
    k.role = "button";
    k.sketch = pieces::button;
    return k;
}

} // namespace loom::project::press_control
