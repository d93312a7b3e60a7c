// Hold button: on while it is held.
#include "surface/control_kind.h"

namespace loom::project::hold_control {

ControlKind declare() {
    ControlKind k;
    k.id = "hold", k.label = "Hold button", k.purpose = "On while it is held";
    k.drives = {Drive::Kind::onOff};
    k.needed = true;
    k.width = 150, k.height = 74;
    k.touch = Touch::hold;
    k.role = "button";
    k.sketch = pieces::button;
    return k;
}

} // namespace loom::project::hold_control
