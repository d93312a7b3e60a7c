#include "acoustics/reverberation.h"
#include <algorithm>
#include <cmath>
#include <numbers>

namespace loom::acoustics {

Reverberation reverberation(double volume, std::span<const Surface> surfaces, const Air& air, const Bands& extra) {
    Reverberation r;
    r.volume = volume;
    for (const auto& s : surfaces)
        r.area += s.area;
    const Bands attenuation = airAttenuation(air);
    const double k = 24 * std::log(10.0) / speedOfSound(air);
    for (std::size_t b = 0; b < bandCount; ++b) {
        double a = extra[b];
        for (const auto& s : surfaces)
            a += s.area * std::clamp(s.absorption[b], 0.0, 1.0);
        const double mean = std::clamp(a / std::max(r.area, 1e-9), 0.0, 0.99);
        const double ofAir = 4 * attenuation[b] / (10 * std::log10(std::numbers::e)) * volume;
        r.absorption[b] = mean;
        r.sabine[b] = std::min(60.0, k * volume / std::max(mean * r.area + ofAir, 1e-9));
        r.eyring[b] = std::min(60.0, k * volume / std::max(-r.area * std::log(1 - mean) + ofAir, 1e-9));
        const double all = mean * r.area + ofAir;
        r.constant[b] = all / (1 - std::min(all / std::max(r.area, 1e-9), 0.99));
    }
    return r;
}

double criticalDistance(double q, double roomConstant) {
    return std::sqrt(q * roomConstant / (16 * std::numbers::pi));
}

} // namespace loom::acoustics
