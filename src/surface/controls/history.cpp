// Level history: how a level, or another figure, went over the last half minute.
#include "surface/control_kind.h"
#include <algorithm>

namespace loom::project::history_control {
namespace {

Sketch sketch(const Drawn& d) {
    using namespace pieces;
    Sketch s;
    const auto& p = d.paint;
    const double line = d.height > 60 ? p.textSize * 1.5 : 0, pad = 6;
    s.marks.push_back(box(d, p.fill));
    for (const double at : {0.25, 0.5, 0.75}) {
        Mark grid;
        grid.x = pad, grid.y = line + pad + (d.height - line - 2 * pad) * at,
        grid.width = std::max(1.0, d.width - 2 * pad);
        grid.height = 1;
        grid.fill = mixed(p.fill, p.ink, 0.16);
        s.marks.push_back(grid);
    }
    Mark curve;
    curve.kind = Mark::Kind::curve;
    curve.x = pad, curve.y = line + pad, curve.width = std::max(1.0, d.width - 2 * pad);
    curve.height = std::max(1.0, d.height - line - 2 * pad);
    curve.edge = p.accent, curve.edgeWidth = 2;
    curve.fill = mixed(p.fill, p.accent, 0.3);
    s.marks.push_back(curve);
    if (line > 0) {
        auto name = label(d, pad, 4, d.width * 0.62 - pad, line, d.label, p.ink, p.textSize);
        name.stand = standOf(d.control, Mark::Stand::left);
        auto value = label(d, d.width * 0.62, 4, d.width * 0.38 - pad, line, "{value}", p.ink, p.textSize, false);
        value.stand = Mark::Stand::right, value.figures = true;
        s.marks.insert(s.marks.end(), {name, value});
    }
    return s;
}

} // namespace

ControlKind declare() {
    ControlKind k;
    k.id = "history", k.label = "Level history", k.purpose = "How a level went over the last half minute";
    k.drives = {Drive::Kind::reading, Drive::Kind::range};
    k.needed = true;
    k.width = 320, k.height = 140;
    k.lately = 120;
    k.role = "img";
    k.sketch = sketch;
    return k;
}

} // namespace loom::project::history_control
