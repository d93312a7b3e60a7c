#include "acoustics/bands.h"
#include <algorithm>
#include <cmath>

namespace loom::acoustics {

double decibels(double energy) {
    return 10 * std::log10(std::max(energy, 1e-30));
}

double energyOf(double db) {
    return std::pow(10, db / 10);
}

Bands filled(double value) {
    Bands b;
    b.fill(value);
    return b;
}

double aWeighted(const Bands& levels) {
    double sum = 0;
    for (std::size_t b = 0; b < bandCount; ++b)
        sum += energyOf(levels[b] + aWeighting[b]);
    return decibels(sum);
}

} // namespace loom::acoustics
