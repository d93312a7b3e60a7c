#include "acoustics/bands.h"
#include <algorithm>
#include <cmath>
#include <vector>

namespace loom::acoustics {

double decibels(double energy) {
    return 10 * std::log10(std::max(energy, 1e-30));
}

double energyOf(double db) {
    return std::pow(10, db / 10);
}

double quickFactor(double db) {
    constexpr double least = -200, most = 60, perDb = 16;
    static const auto table = [] {
        std::vector<double> t;
        for (int i = 0; i <= static_cast<int>((most - least) * perDb) + 1; ++i)
            t.push_back(std::pow(10, (least + i / perDb) / 20));
        return t;
    }();
    if (!(db >= least && db < most))
        return std::pow(10, db / 20);
    const double at = (db - least) * perDb;
    const auto i = static_cast<std::size_t>(at);
    return table[i] + (at - static_cast<double>(i)) * (table[i + 1] - table[i]);
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
