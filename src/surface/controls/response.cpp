// Response: the curve of a filter at the settings it has now, 20 Hz to 20 kHz.
#include "surface/control_kind.h"
#include <algorithm>
#include <cmath>

namespace loom::project::response_control {
namespace {

Sketch sketch(const Drawn& d) {
    using namespace pieces;
    Sketch s;
    const auto& p = d.paint;
    const double line = p.textSize * 1.5, pad = 6;
    const double wide = std::max(1.0, d.width - 2 * pad), high = std::max(1.0, d.height - 2 * line - pad);
    s.marks.push_back(box(d, p.fill));
    for (const auto& [hz, words] : {std::pair(100.0, "100"), {1000.0, "1k"}, {10000.0, "10k"}}) {
        Mark grid;
        const double x = pad + wide * std::log10(hz / 20) / 3;
        grid.x = x, grid.y = line, grid.width = 1, grid.height = high;
        grid.fill = mixed(p.fill, p.ink, 0.16);
        auto name = label(d, x - 30, d.height - line, 60, line, words, p.ink, p.textSize * 0.8, false);
        name.stand = Mark::Stand::centre, name.figures = true;
        s.marks.insert(s.marks.end(), {grid, name});
    }
    Mark zero;
    zero.x = pad, zero.y = line + high / 2, zero.width = wide, zero.height = 1;
    zero.fill = mixed(p.fill, p.ink, 0.3);
    Mark curve;
    curve.kind = Mark::Kind::curve;
    curve.x = pad, curve.y = line, curve.width = wide, curve.height = high;
    curve.edge = p.accent, curve.edgeWidth = 3;
    auto name = label(d, pad, 2, d.width - 2 * pad, line, d.label, p.ink, p.textSize);
    name.stand = standOf(d.control, Mark::Stand::left);
    s.marks.insert(s.marks.end(), {zero, curve, name});
    return s;
}

} // namespace

ControlKind declare() {
    ControlKind k;
    k.id = "response", k.label = "Response", k.purpose = "The curve of a filter at its settings now, 20 Hz to 20 kHz";
    k.drives = {Drive::Kind::response};
    k.needed = true;
    k.width = 360, k.height = 180;
    k.role = "img";
    k.sketch = sketch;
    return k;
}

} // namespace loom::project::response_control
