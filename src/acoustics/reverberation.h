// Reverberation by statistics: absorption of the surfaces and the air.
#pragma once
#include "acoustics/air.h"
#include <span>

namespace loom::acoustics {

struct Surface {
    double area = 0;    // m2
    Bands absorption{}; // 0..1; above 1 is taken as 1
};

struct Reverberation {
    double volume = 0, area = 0; // m3, m2 of all surfaces
    Bands absorption{};          // mean coefficient of the surfaces
    Bands sabine{}, eyring{};    // seconds, air absorption among them
    Bands constant{};            // room constant with air, m2: (S a + 4 m V) / (1 - (S a + 4 m V) / S)
    double middle(const Bands& times) const { return (times[3] + times[4]) / 2; } // 500 Hz and 1 kHz
};

// T = (24 ln 10 / c) V / (S a + 4 m V) (W. C. Sabine, 1900) and T = (24 ln 10 / c) V / (-S ln(1 - a) + 4 m V)
// (C. F. Eyring, J. Acoust. Soc. Am. 1, 1930); m: energy attenuation of the air in 1/m (ISO 9613-1). volume and the
// sum of areas > 0. Extra absorption (people, m2 per band) is added to the surfaces'. Times are at most 60 s.
Reverberation reverberation(double volume, std::span<const Surface> surfaces, const Air& air = {},
                            const Bands& extra = {});
// Where direct and reverberant sound are equally strong, m: sqrt(Q R / (16 pi)) (H. Kuttruff, Room Acoustics, 5.6).
double criticalDistance(double directivityFactor, double roomConstant);

} // namespace loom::acoustics
