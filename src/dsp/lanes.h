// Eight channels side by side: a bundle holds them interleaved, sample by sample, so that one register takes the same
// sample of several lanes.
#pragma once
#include "dsp/dispatch.h"
#include <cstddef>
#include <cstring>

namespace loom::dsp {

inline constexpr int maxFrame = 64; // longest stretch a kernel is asked for at once
inline constexpr int laneCount = 8; // lanes of a bundle
inline constexpr std::size_t bundleSize = static_cast<std::size_t>(maxFrame) * laneCount;

// Where a channel's samples lie: next to each other (stride 1) or on a bundle (stride 8).
struct Strided {
    float* at = nullptr;
    int stride = 1;
};

// Brings eight channels onto a bundle; a null one becomes silence.
void gather(const Strided (&from)[laneCount], float* bundle, int frames);
// Takes all eight apart; a null pointer leaves a lane out.
void scatter(const float* bundle, float* const (&to)[laneCount], int frames);
// Takes one channel out.
void copyLane(Strided from, float* to, int frames);
void putLane(const float* from, Strided to, int frames);

// Registers of each width: doubles, as many floats as there are doubles, floats, and whole numbers of that size.
template <int Bytes> struct Registers;
template <> struct Registers<16> {
    typedef double D __attribute__((vector_size(16)));
    typedef float Half __attribute__((vector_size(8)));
    typedef float F __attribute__((vector_size(16)));
    typedef int I __attribute__((vector_size(16)));
    // The same where they lie in memory, at any address.
    typedef D DAt __attribute__((aligned(8), may_alias));
    typedef Half HalfAt __attribute__((aligned(4), may_alias));
    typedef F FAt __attribute__((aligned(4), may_alias));
    typedef I IAt __attribute__((aligned(4), may_alias));
};
template <> struct Registers<32> {
    typedef double D __attribute__((vector_size(32)));
    typedef float Half __attribute__((vector_size(16)));
    typedef float F __attribute__((vector_size(32)));
    typedef int I __attribute__((vector_size(32)));
    // The same where they lie in memory, at any address.
    typedef D DAt __attribute__((aligned(8), may_alias));
    typedef Half HalfAt __attribute__((aligned(4), may_alias));
    typedef F FAt __attribute__((aligned(4), may_alias));
    typedef I IAt __attribute__((aligned(4), may_alias));
};
template <> struct Registers<64> {
    typedef double D __attribute__((vector_size(64)));
    typedef float Half __attribute__((vector_size(32)));
    typedef float F __attribute__((vector_size(32)));
    typedef int I __attribute__((vector_size(32)));
    // The same where they lie in memory, at any address.
    typedef D DAt __attribute__((aligned(8), may_alias));
    typedef Half HalfAt __attribute__((aligned(4), may_alias));
    typedef F FAt __attribute__((aligned(4), may_alias));
    typedef I IAt __attribute__((aligned(4), may_alias));
};

// Eight doubles in as many registers as Bytes gives, for the bodies of LOOM_WIDE functions. Loops over `n` are meant to
// be unrolled.
template <int Bytes> struct Eight {
    static constexpr int n = 64 / Bytes;
    using R = Registers<Bytes>;
    using D = typename R::D;
    D v[n];

    LOOM_INLINE static Eight load(const double* p) {
        Eight e;
        for (int i = 0; i < n; ++i)
            e.v[i] = reinterpret_cast<const typename R::DAt*>(p)[i];
        return e;
    }
    LOOM_INLINE static Eight load(const float* p) {
        Eight e;
#if LOOM_MANY_WIDTHS
        if constexpr (Bytes == 64) { // GCC 12 makes two conversions and an insertion of this one
            asm("vcvtps2pd %1, %0" : "=v"(e.v[0]) : "m"(*reinterpret_cast<const typename R::HalfAt*>(p)));
            return e;
        }
#endif
        for (int i = 0; i < n; ++i)
            e.v[i] = __builtin_convertvector(reinterpret_cast<const typename R::HalfAt*>(p)[i], D);
        return e;
    }
    LOOM_INLINE void store(double* p) const {
        for (int i = 0; i < n; ++i)
            reinterpret_cast<typename R::DAt*>(p)[i] = v[i];
    }
    LOOM_INLINE void store(float* p) const {
        for (int i = 0; i < n; ++i)
            reinterpret_cast<typename R::HalfAt*>(p)[i] = __builtin_convertvector(v[i], typename R::Half);
    }
};

// Eight floats likewise.
template <int Bytes> struct EightF {
    using R = Registers<Bytes>;
    using F = typename R::F;
    static constexpr int n = 32 / static_cast<int>(sizeof(F));
    F v[n];

    LOOM_INLINE static EightF load(const float* p) {
        EightF e;
        for (int i = 0; i < n; ++i)
            e.v[i] = reinterpret_cast<const typename R::FAt*>(p)[i];
        return e;
    }
    LOOM_INLINE static EightF all(float x) {
        EightF e;
        for (int i = 0; i < n; ++i)
            e.v[i] = F{} + x;
        return e;
    }
    LOOM_INLINE void store(float* p) const {
        for (int i = 0; i < n; ++i)
            reinterpret_cast<typename R::FAt*>(p)[i] = v[i];
    }
};

} // namespace loom::dsp
