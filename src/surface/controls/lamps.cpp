// Lamps: who is open, one for each lane.
#include "surface/control_kind.h"
#include <algorithm>
#include <cmath>

namespace loom::project::lamps_control {
namespace {

Sketch sketch(const Drawn& d) {
    using namespace pieces;
    Sketch s;
    const auto& p = d.paint;
    s.marks.push_back(box(d, p.fill));
    const auto names = d.drive && !d.drive->lanes.empty() ? d.drive->lanes : std::vector<std::string>{"?"};
    const int n = static_cast<int>(names.size());
    const double pad = 8, line = d.label.empty() ? 0 : p.textSize * 1.5;
    const double wide = d.width - 2 * pad, high = d.height - 2 * pad - line;
    // As many side by side as leave each a box that is wider than high.
    const int across = std::clamp(static_cast<int>(std::lround(std::sqrt(n * wide / std::max(1.0, high * 5)))), 1, n);
    const int rows = (n + across - 1) / across;
    const double w = wide / across, h = high / rows, lamp = std::clamp(std::min(h * 0.6, w / 6), 6.0, 22.0);
    for (int i = 0; i < n; ++i) {
        const double x = pad + (i % across) * w, y = pad + line + (i / across) * h;
        Mark ring;
        ring.kind = Mark::Kind::ellipse;
        ring.x = x + 2, ring.y = y + (h - lamp) / 2, ring.width = lamp, ring.height = lamp;
        ring.edge = mixed(p.fill, p.ink, 0.55), ring.edgeWidth = 2;
        ring.of = i;
        Mark lit = ring;
        lit.fill = lit.edge = p.accent, lit.when = Mark::When::on;
        auto name = label(d, x + lamp + 9, y, w - lamp - 13, h, names[static_cast<std::size_t>(i)], p.ink,
                          std::min(p.textSize, std::max(8.0, h * 0.7)), false);
        name.stand = Mark::Stand::left;
        s.marks.insert(s.marks.end(), {ring, lit, name});
    }
    if (line > 0) {
        auto title = label(d, pad, pad / 2, wide, line, d.label, p.ink, p.textSize);
        title.stand = standOf(d.control, Mark::Stand::left);
        s.marks.push_back(title);
    }
    return s;
}

} // namespace

ControlKind declare() {
    ControlKind k;
    k.id = "lamps", k.label = "Who is open", k.purpose = "A lamp for each microphone of an automatic mixer";
    k.drives = {Drive::Kind::lanes};
    k.needed = true;
    k.width = 420, k.height = 160;
    k.role = "group";
    k.sketch = sketch;
    return k;
}

} // namespace loom::project::lamps_control
