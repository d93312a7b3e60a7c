#include "acoustics/ceiling_grid.h"
#include <algorithm>
#include <cmath>
#include <numbers>

namespace loom::acoustics {
namespace {

std::vector<Spot> grid(const Outline& o, int columns, int rows) {
    const Extent e = extentOf(o);
    std::vector<Spot> spots;
    for (int r = 0; r < rows; ++r)
        for (int c = 0; c < columns; ++c) {
            const Spot s{e.least[0] + e.width() * (c + 0.5) / columns, e.least[1] + e.depth() * (r + 0.5) / rows};
            if (contains(o, s))
                spots.push_back(s);
        }
    return spots;
}

} // namespace

double coverageAtEars(double height, double ear, double angle) {
    return 2 * std::max(height - ear, 0.0) * std::tan(std::min(angle, 170.0) / 2 * std::numbers::pi / 180);
}

double gridSpacing(double diameter, double overlap) {
    return diameter * (1 - std::clamp(overlap, 0.0, 0.9));
}

std::vector<Spot> gridOf(const Outline& o, int count) {
    const Extent e = extentOf(o);
    if (count < 1 || e.width() <= 0 || e.depth() <= 0)
        return {};
    // Of all rows x columns that give the count (or the fewest more), the one with the most equal spacing.
    int bestColumns = count, bestRows = 1;
    double best = 1e9;
    for (int rows = 1; rows <= count; ++rows) {
        const int columns = (count + rows - 1) / rows;
        const double uneven = std::abs(std::log(e.width() / columns / (e.depth() / rows)));
        const double cost = uneven + (rows * columns - count);
        if (cost < best) {
            best = cost;
            bestColumns = columns;
            bestRows = rows;
        }
    }
    return grid(o, bestColumns, bestRows);
}

std::vector<Spot> gridBySpacing(const Outline& o, double spacing) {
    const Extent e = extentOf(o);
    if (!(spacing > 0.1) || e.width() <= 0 || e.depth() <= 0)
        return {};
    return grid(o, std::max(1, static_cast<int>(std::ceil(e.width() / spacing - 1e-9))),
                std::max(1, static_cast<int>(std::ceil(e.depth() / spacing - 1e-9))));
}

} // namespace loom::acoustics
