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

} // namespace loom::project
