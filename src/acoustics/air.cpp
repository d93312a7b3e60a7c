#include "acoustics/air.h"
#include <cmath>

namespace loom::acoustics {

double speedOfSound(const Air& air) {
    return 331.3 * std::sqrt(1 + air.celsius / 273.15);
}

double airAttenuation(double hz, const Air& air) {
    constexpr double reference = 293.15, triple = 273.16, standard = 101.325;
    const double t = air.celsius + 273.15, p = air.kPa / standard, r = t / reference;
    const double saturation = std::pow(10, -6.8346 * std::pow(triple / t, 1.261) + 4.6151);
    const double h = air.humidity * saturation / p; // molar concentration of water vapour, percent
    const double oxygen = p * (24 + 4.04e4 * h * (0.02 + h) / (0.391 + h));
    const double nitrogen = p / std::sqrt(r) * (9 + 280 * h * std::exp(-4.170 * (std::pow(r, -1.0 / 3) - 1)));
    const double f2 = hz * hz;
    return 8.686 * f2 *
           (1.84e-11 / p * std::sqrt(r) +
            std::pow(r, -2.5) * (0.01275 * std::exp(-2239.1 / t) / (oxygen + f2 / oxygen) +
                                 0.1068 * std::exp(-3352.0 / t) / (nitrogen + f2 / nitrogen)));
}

Bands airAttenuation(const Air& air) {
    Bands b;
    for (std::size_t i = 0; i < bandCount; ++i)
        b[i] = airAttenuation(bandHz[i], air);
    return b;
}

} // namespace loom::acoustics
