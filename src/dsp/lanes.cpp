#include "dsp/lanes.h"

namespace loom::dsp {

namespace {

typedef float V __attribute__((vector_size(32)));
typedef V VAt __attribute__((aligned(4), may_alias));

// Turns eight samples of eight channels over in registers: rows become columns.
LOOM_INLINE void turn(V (&r)[laneCount]) {
    V t[laneCount];
    for (int l = 0; l < laneCount; l += 2) { // pairs
        t[l] = __builtin_shufflevector(r[l], r[l + 1], 0, 8, 1, 9, 4, 12, 5, 13);
        t[l + 1] = __builtin_shufflevector(r[l], r[l + 1], 2, 10, 3, 11, 6, 14, 7, 15);
    }
    for (int l = 0; l < laneCount; l += 4) { // fours
        r[l] = __builtin_shufflevector(t[l], t[l + 2], 0, 1, 8, 9, 4, 5, 12, 13);
        r[l + 1] = __builtin_shufflevector(t[l], t[l + 2], 2, 3, 10, 11, 6, 7, 14, 15);
        r[l + 2] = __builtin_shufflevector(t[l + 1], t[l + 3], 0, 1, 8, 9, 4, 5, 12, 13);
        r[l + 3] = __builtin_shufflevector(t[l + 1], t[l + 3], 2, 3, 10, 11, 6, 7, 14, 15);
    }
    for (int k = 0; k < 4; ++k) {
        t[k] = __builtin_shufflevector(r[k], r[k + 4], 0, 1, 2, 3, 8, 9, 10, 11);
        t[k + 4] = __builtin_shufflevector(r[k], r[k + 4], 4, 5, 6, 7, 12, 13, 14, 15);
    }
    for (int k = 0; k < laneCount; ++k)
        r[k] = t[k];
}

template <int B> LOOM_INLINE void turnBody(const float* const* from, float* bundle, int frames) {
    int i = 0;
    if constexpr (B >= 32)
        for (; i + laneCount <= frames; i += laneCount) {
            V r[laneCount];
            for (int l = 0; l < laneCount; ++l)
                r[l] = *reinterpret_cast<const VAt*>(from[l] + i);
            turn(r);
            for (int k = 0; k < laneCount; ++k)
                *reinterpret_cast<VAt*>(bundle + (i + k) * laneCount) = r[k];
        }
    for (; i < frames; ++i)
        for (int l = 0; l < laneCount; ++l)
            bundle[i * laneCount + l] = from[l][i];
}

template <int B> LOOM_INLINE void unturnBody(const float* bundle, float* const* to, int frames) {
    int i = 0;
    if constexpr (B >= 32)
        for (; i + laneCount <= frames; i += laneCount) {
            V r[laneCount];
            for (int k = 0; k < laneCount; ++k)
                r[k] = *reinterpret_cast<const VAt*>(bundle + (i + k) * laneCount);
            turn(r);
            for (int l = 0; l < laneCount; ++l)
                *reinterpret_cast<VAt*>(to[l] + i) = r[l];
        }
    for (; i < frames; ++i)
        for (int l = 0; l < laneCount; ++l)
            to[l][i] = bundle[i * laneCount + l];
}

LOOM_WIDE(turnBack, unturnBody, (const float* bundle, float* const* to, int frames), (bundle, to, frames))
LOOM_WIDE(turnOver, turnBody, (const float* const* from, float* bundle, int frames), (from, bundle, frames))

} // namespace

void gather(const Strided (&from)[laneCount], float* bundle, int frames) {
    alignas(64) static const float silence[maxFrame]{};
    const float* p[laneCount];
    bool flat = true;
    for (int l = 0; l < laneCount; ++l) {
        p[l] = from[l].at ? from[l].at : silence;
        flat = flat && (!from[l].at || from[l].stride == 1);
    }
    if (flat)
        return turnOver(p, bundle, frames);
    for (int l = 0; l < laneCount; ++l) {
        const std::ptrdiff_t step = from[l].at ? from[l].stride : 1;
        for (int i = 0; i < frames; ++i)
            bundle[i * laneCount + l] = p[l][i * step];
    }
}

void scatter(const float* bundle, float* const (&to)[laneCount], int frames) {
    float unwanted[maxFrame];
    float* p[laneCount];
    for (int l = 0; l < laneCount; ++l)
        p[l] = to[l] ? to[l] : unwanted;
    turnBack(bundle, p, frames);
}

void copyLane(Strided from, float* to, int frames) {
    if (from.stride == 1) {
        std::memcpy(to, from.at, sizeof(float) * static_cast<std::size_t>(frames));
        return;
    }
    for (int i = 0; i < frames; ++i)
        to[i] = from.at[static_cast<std::ptrdiff_t>(i) * laneCount];
}

void putLane(const float* from, Strided to, int frames) {
    for (int i = 0; i < frames; ++i)
        to.at[static_cast<std::ptrdiff_t>(i) * to.stride] = from[i];
}

} // namespace loom::dsp
