#include "acoustics/pick_up.h"
#include <algorithm>
#include <cmath>
#include <numbers>

namespace loom::acoustics {

PickUp pickUp(const Point& microphone, const Bands& factor, const Point& talker, const Bands& level,
              const Reverberation& room, const Bands& noise) {
    PickUp p;
    p.distance = std::max(lengthOf(microphone - talker), 0.02);
    Bands direct, around, hiss;
    for (std::size_t b = 0; b < bandCount; ++b) {
        const double aside = 10 * std::log10(factor[b]);
        direct[b] = level[b] - 20 * std::log10(p.distance);
        around[b] = level[b] + decibels(4 * std::numbers::pi) + decibels(4 / std::max(room.constant[b], 1e-9)) - aside;
        hiss[b] = noise[b] - aside;
    }
    p.toNoise = aWeighted(direct) - aWeighted(hiss);
    p.toReverberant = aWeighted(direct) - aWeighted(around);
    return p;
}

Bands speechAt(double level) {
    Bands b;
    for (std::size_t i = 0; i < bandCount; ++i)
        b[i] = level + speechSpectrum[i];
    return b;
}

} // namespace loom::acoustics
