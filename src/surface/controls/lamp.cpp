// Lamp: lit while something is on; nobody presses it.
#include "surface/control_kind.h"
#include <algorithm>

namespace loom::project::lamp_control {
namespace {

Sketch sketch(const Drawn& d) {
    using namespace pieces;
    Sketch s;
    const auto& p = d.paint;
    const double size = std::clamp(std::min(d.height * 0.5, d.width / 4), 8.0, 28.0), pad = 12;
    Mark ring;
    ring.kind = Mark::Kind::ellipse;
    ring.x = d.label.empty() ? (d.width - size) / 2 : pad, ring.y = (d.height - size) / 2;
    ring.width = ring.height = size;
    ring.edge = mixed(p.fill, p.ink, 0.55), ring.edgeWidth = 2;
    Mark lit = ring;
    lit.fill = lit.edge = p.accent, lit.when = Mark::When::on;
    s.marks = {box(d, p.fill), ring, lit};
    if (d.label.empty())
        return s;
    // What it is in words as well: not by its colour alone.
    const double x = pad + size + 10, wide = d.width - x - 6;
    const bool two = d.height > p.textSize * 2.6;
    auto name = label(d, x, two ? d.height / 2 - p.textSize * 1.3 : 0, wide, two ? p.textSize * 1.4 : d.height, d.label,
                      p.ink, p.textSize);
    name.stand = standOf(d.control, Mark::Stand::left);
    s.marks.push_back(name);
    if (two) {
        auto now = label(d, x, d.height / 2 + p.textSize * 0.1, wide, p.textSize * 1.3, "{value}", p.ink,
                         p.textSize * 0.85, false);
        now.stand = name.stand;
        s.marks.push_back(now);
    }
    return s;
}

} // namespace

ControlKind declare() {
    ControlKind k;
    k.id = "lamp", k.label = "Lamp", k.purpose = "Lit while something is on: a wall open, a device there";
    k.drives = {Drive::Kind::onOff, Drive::Kind::scene};
    k.needed = true;
    k.width = 190, k.height = 64;
    k.role = "status";
    k.sketch = sketch;
    return k;
}

} // namespace loom::project::lamp_control
