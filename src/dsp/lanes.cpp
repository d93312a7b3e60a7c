#include "dsp/lanes.h"

namespace loom::dsp {

void gather(const Place (&from)[laneCount], float* sheet, int frames) {
    static const float silence[maxFrame]{};
    const float* p[laneCount];
    std::ptrdiff_t step[laneCount];
    for (int l = 0; l < laneCount; ++l) {
        p[l] = from[l].at ? from[l].at : silence;
        step[l] = from[l].at ? from[l].stride : 1;
    }
    for (int i = 0; i < frames; ++i, sheet += laneCount)
        for (int l = 0; l < laneCount; ++l) {
            sheet[l] = *p[l];
            p[l] += step[l];
        }
}

void copyLane(Place from, float* to, int frames) {
    if (from.stride == 1) {
        std::memcpy(to, from.at, sizeof(float) * static_cast<std::size_t>(frames));
        return;
    }
    for (int i = 0; i < frames; ++i)
        to[i] = from.at[static_cast<std::ptrdiff_t>(i) * laneCount];
}

void putLane(const float* from, Place to, int frames) {
    for (int i = 0; i < frames; ++i)
        to.at[static_cast<std::ptrdiff_t>(i) * to.stride] = from[i];
}

} // namespace loom::dsp
