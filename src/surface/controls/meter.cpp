// Meter: how far something goes, upright or level as its box is.
#include "surface/control_kind.h"
#include <algorithm>

namespace loom::project::meter_control {
namespace {

Sketch sketch(const Drawn& d) {
    using namespace pieces;
    Sketch s;
    const auto& p = d.paint;
    const double line = d.height > 60 && d.width > 4 * p.textSize && !d.label.empty() ? p.textSize * 1.5 : 0, pad = 6;
    Mark rail, bar;
    rail.x = pad, rail.y = line + pad, rail.width = std::max(1.0, d.width - 2 * pad);
    rail.height = std::max(1.0, d.height - line - 2 * pad);
    rail.corner = bar.corner = 3;
    rail.fill = mixed(p.fill, p.ink, 0.12);
    bar = rail;
    bar.fill = p.accent, bar.when = Mark::When::known;
    if (d.width > d.height) {
        bar.width = {0, rail.width.at};
    } else {
        bar.y = {rail.y.at + rail.height.at, -rail.height.at};
        bar.height = {0, rail.height.at};
    }
    s.marks = {box(d, p.fill), rail, bar};
    if (line > 0)
        s.marks.push_back(label(d, pad / 2, pad / 2, d.width - pad, line, d.label, p.ink, p.textSize));
    return s;
}

} // namespace

ControlKind declare() {
    ControlKind k;
    k.id = "meter", k.label = "Meter", k.purpose = "A level, or another figure, as a bar";
    k.drives = {Drive::Kind::reading, Drive::Kind::range};
    k.needed = true;
    k.width = 36, k.height = 232;
    k.role = "meter";
    k.sketch = sketch;
    return k;
}

} // namespace loom::project::meter_control
