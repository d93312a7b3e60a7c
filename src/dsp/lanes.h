// Eight channels side by side: a sheet holds them interleaved, sample by sample, so that one register takes the same
// sample of several lanes.
#pragma once
#include "dsp/dispatch.h"
#include <cstddef>
#include <cstring>

namespace loom::dsp {

inline constexpr int maxFrame = 64; // longest stretch a kernel is asked for at once
inline constexpr int laneCount = 8; // lanes of a sheet
inline constexpr std::size_t sheetSize = static_cast<std::size_t>(maxFrame) * laneCount;

// Where a channel's samples lie: next to each other (stride 1) or on a sheet (stride 8).
struct Place {
    float* at = nullptr;
    int stride = 1;
};

// Brings eight channels onto a sheet; a null one becomes silence.
void gather(const Place (&from)[laneCount], float* sheet, int frames);
// Takes one channel out.
void copyLane(Place from, float* to, int frames);
void putLane(const float* from, Place to, int frames);

// Registers of each width: doubles, as many floats as there are doubles, and floats.
template <int Bytes> struct Registers;
template <> struct Registers<16> {
    typedef double D __attribute__((vector_size(16)));
    typedef float Half __attribute__((vector_size(8)));
    typedef float F __attribute__((vector_size(16)));
};
template <> struct Registers<32> {
    typedef double D __attribute__((vector_size(32)));
    typedef float Half __attribute__((vector_size(16)));
    typedef float F __attribute__((vector_size(32)));
};
template <> struct Registers<64> {
    typedef double D __attribute__((vector_size(64)));
    typedef float Half __attribute__((vector_size(32)));
    typedef float F __attribute__((vector_size(32)));
};

// Eight doubles in as many registers as Bytes gives, for the bodies of LOOM_WIDE functions. Loops over `n` are meant to
// be unrolled.
template <int Bytes> struct Eight {
    static constexpr int n = 64 / Bytes;
    using D = typename Registers<Bytes>::D;
    using Half = typename Registers<Bytes>::Half;
    D v[n];

    LOOM_INLINE static Eight load(const double* p) {
        Eight e;
        std::memcpy(&e.v, p, sizeof e.v);
        return e;
    }
    LOOM_INLINE static Eight load(const float* p) {
        Eight e;
        for (int i = 0; i < n; ++i) {
            Half f;
            std::memcpy(&f, p + i * (laneCount / n), sizeof f);
            e.v[i] = __builtin_convertvector(f, D);
        }
        return e;
    }
    LOOM_INLINE void store(double* p) const { std::memcpy(p, &v, sizeof v); }
    LOOM_INLINE void store(float* p) const {
        for (int i = 0; i < n; ++i) {
            const Half f = __builtin_convertvector(v[i], Half);
            std::memcpy(p + i * (laneCount / n), &f, sizeof f);
        }
    }
};

// Eight floats likewise.
template <int Bytes> struct EightF {
    static constexpr int width = Bytes > 32 ? 32 : Bytes, n = 32 / width;
    using F = typename Registers<Bytes>::F;
    F v[n];

    LOOM_INLINE static EightF load(const float* p) {
        EightF e;
        std::memcpy(&e.v, p, sizeof e.v);
        return e;
    }
    LOOM_INLINE static EightF all(float x) {
        EightF e;
        for (int i = 0; i < n; ++i)
            e.v[i] = F{} + x;
        return e;
    }
    LOOM_INLINE void store(float* p) const { std::memcpy(p, &v, sizeof v); }
};

} // namespace loom::dsp
