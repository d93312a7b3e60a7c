#include "acoustics/noise_curve.h"
#include <algorithm>
#include <cmath>

namespace loom::acoustics {
namespace {

constexpr double firstNc = 15, ncStep = 5;
constexpr std::array<Bands, 11> ncCurves{{{47, 36, 29, 22, 17, 14, 12, 11},
                                          {51, 40, 33, 26, 22, 19, 17, 16},
                                          {54, 44, 37, 31, 27, 24, 22, 21},
                                          {57, 48, 41, 35, 31, 29, 28, 27},
                                          {60, 52, 45, 40, 36, 34, 33, 32},
                                          {64, 56, 50, 45, 41, 39, 38, 37},
                                          {67, 60, 54, 49, 46, 44, 43, 42},
                                          {71, 64, 58, 54, 51, 49, 48, 47},
                                          {74, 67, 62, 58, 56, 54, 53, 52},
                                          {77, 71, 67, 63, 61, 59, 58, 57},
                                          {80, 75, 71, 68, 66, 64, 63, 62}}};

} // namespace

Bands noiseCriterion(double nc) {
    const double at = std::clamp((nc - firstNc) / ncStep, 0.0, double(ncCurves.size() - 1));
    const auto i = std::min(static_cast<std::size_t>(at), ncCurves.size() - 2);
    const double part = at - static_cast<double>(i);
    Bands b;
    for (std::size_t k = 0; k < bandCount; ++k)
        b[k] = ncCurves[i][k] * (1 - part) + ncCurves[i + 1][k] * part;
    return b;
}

Bands noiseRating(double nr) {
    constexpr Bands a{35.5, 22.0, 12.0, 4.8, 0, -3.5, -6.1, -8.0};
    constexpr Bands b{0.790, 0.870, 0.930, 0.974, 1.000, 1.015, 1.025, 1.030};
    Bands out;
    for (std::size_t k = 0; k < bandCount; ++k)
        out[k] = a[k] + b[k] * std::clamp(nr, 0.0, 130.0);
    return out;
}

} // namespace loom::acoustics
