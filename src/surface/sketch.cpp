#include "surface/sketch.h"
#include <algorithm>

namespace loom::project {

double Track::at(double x, double y) const {
    const double dx = x1 - x0, dy = y1 - y0, length = dx * dx + dy * dy;
    return length > 0 ? std::clamp(((x - x0) * dx + (y - y0) * dy) / length, 0.0, 1.0) : 0;
}

int Sketch::partAt(double x, double y) const {
    for (auto it = marks.rbegin(); it != marks.rend(); ++it)
        if (it->part >= 0 && x >= it->x.at && y >= it->y.at && x <= it->x.at + it->width.at &&
            y <= it->y.at + it->height.at)
            return it->part;
    return -1;
}

bool isDrawn(const Mark& m, const Shown& s) {
    const bool lane = m.of >= 0;
    const auto i = static_cast<std::size_t>(std::max(m.of, 0));
    const double at = lane && i < s.series.size() ? s.series[i] : -1;
    const bool known = lane ? at >= 0 : s.known, on = lane ? at >= 0.5 : s.on;
    switch (m.when) {
    case Mark::When::always:
        return true;
    case Mark::When::on:
        return known && on;
    case Mark::When::off:
        return known && !on;
    case Mark::When::unknown:
        return !known;
    case Mark::When::known:
        return known;
    case Mark::When::chosen:
        return known && s.chosen == m.part;
    case Mark::When::held:
        return s.held.count(std::max(m.part, 0)) > 0;
    }
    return true;
}

double positionFor(const Mark& m, const Shown& s) {
    if (m.of < 0)
        return s.t;
    const auto i = static_cast<std::size_t>(m.of);
    return i < s.series.size() ? std::clamp(s.series[i], 0.0, 1.0) : 0;
}

} // namespace loom::project
