// Toggle: on with one press, off with the next.
#include "surface/control_kind.h"
#include <algorithm>

namespace loom::project::toggle_control {
namespace {

Sketch sketch(const Drawn& d) {
    using namespace pieces;
    Sketch s;
    const auto& p = d.paint;
    s.marks = {box(d, p.fill), box(d, p.accent, Mark::When::on)};
    for (const auto when : {Mark::When::off, Mark::When::on, Mark::When::unknown})
        for (auto& m : face(d, 6, 0, d.width - 12, d.height, when == Mark::When::on ? p.onAccent : p.ink)) {
            m.when = when;
            s.marks.push_back(m);
        }
    Mark lamp; // not by its colour alone
    lamp.kind = Mark::Kind::ellipse;
    const double size = std::clamp(d.height / 8, 6.0, 12.0);
    lamp.x = d.width - size - 8, lamp.y = 8, lamp.width = size, lamp.height = size;
    lamp.edge = p.ink, lamp.edgeWidth = 1.5;
    lamp.when = Mark::When::off;
    s.marks.push_back(lamp);
    lamp.fill = lamp.edge = p.onAccent, lamp.when = Mark::When::on;
    s.marks.push_back(lamp);
    return s;
}

} // namespace

ControlKind declare() {
    ControlKind k;
    k.id = "toggle", k.label = "Toggle", k.purpose = "On with one press, off with the next";
    k.drives = {Drive::Kind::onOff};
    k.needed = true;
    k.width = 150, k.height = 74;
    k.touch = Touch::toggle;
    k.role = "switch";
    k.sketch = sketch;
    return k;
}

} // namespace loom::project::toggle_control
