// Picture: a file of the project, such as a plan; or one that follows what a parameter is.
#include "surface/control_kind.h"

namespace loom::project::picture_control {
namespace {

Sketch sketch(const Drawn& d) {
    using namespace pieces;
    Sketch s;
    const auto& c = d.control;
    const bool none = (c.pictures.always + c.pictures.on + c.pictures.off).empty();
    if (none || !c.look.fill.empty() || !c.look.edge.empty())
        s.marks.push_back(box(d, none                  ? mixed(d.paint.page, d.paint.ink, 0.04)
                                 : c.look.fill.empty() ? Colour{0, 0, 0, 0}
                                                       : d.paint.fill));
    if (none)
        s.marks.push_back(
            label(d, 4, 0, d.width - 8, d.height, "Drop a picture here", d.paint.ink, d.paint.textSize, false));
    else if (!c.text.empty())
        s.marks.push_back(label(d, 4, d.height - d.paint.textSize * 1.6, d.width - 8, d.paint.textSize * 1.6, c.text,
                                d.paint.ink, d.paint.textSize));
    return s;
}

} // namespace

ControlKind declare() {
    ControlKind k;
    k.id = "picture", k.label = "Picture", k.purpose = "A PNG, JPEG or SVG of the project";
    k.drives = {Drive::Kind::onOff, Drive::Kind::scene, Drive::Kind::cue};
    k.width = 320, k.height = 200;
    k.role = "img";
    k.sketch = sketch;
    return k;
}

} // namespace loom::project::picture_control
