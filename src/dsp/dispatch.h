// Hot loops are compiled for several kinds of machine, and the best that runs here is taken. Results differ by rounding
// only (tst_lanes). Left out where the compiler or a sanitizer cannot do it.
#pragma once

#if defined(__x86_64__) && defined(__GNUC__) && !defined(__clang__) && !defined(__SANITIZE_ADDRESS__) &&               \
    !defined(__SANITIZE_THREAD__)
#define LOOM_HOT __attribute__((target_clones("arch=haswell", "default")))
#define LOOM_MANY_WIDTHS 1
#else
#define LOOM_HOT
#define LOOM_MANY_WIDTHS 0
#endif

#define LOOM_INLINE [[gnu::always_inline]] inline

namespace loom::dsp {

// Bytes of the registers that hot loops use: 16 (any machine), 32 (AVX2 and FMA) or 64 (AVX-512).
enum class Width { any = 16, avx2 = 32, avx512 = 64 };
Width widest();         // that this machine can do
Width width();          // that is in use
void useWidth(Width w); // for tests and benchmarks; not while sound runs

// Before long sums: what painted before may have left the upper halves of the wide registers in use, and everything
// that computes without them then runs at a tenth of its speed, on this thread and on those it starts.
inline void freshRegisters() {
#if LOOM_MANY_WIDTHS
    if (width() != Width::any)
        __asm__ volatile("vzeroupper" ::: "memory");
#endif
}

} // namespace loom::dsp

// Defines `name(...)` so that it runs body<16>, body<32> or body<64>, as the machine can. body is a LOOM_INLINE
// template.
#if LOOM_MANY_WIDTHS
#define LOOM_WIDE(name, body, PARAMETERS, ARGUMENTS)                                                                   \
    __attribute__((flatten)) static void name##_16 PARAMETERS {                                                        \
        body<16> ARGUMENTS;                                                                                            \
    }                                                                                                                  \
    __attribute__((flatten, target("avx2,fma,tune=haswell"))) static void name##_32 PARAMETERS {                       \
        body<32> ARGUMENTS;                                                                                            \
    }                                                                                                                  \
    __attribute__((                                                                                                    \
        flatten,                                                                                                       \
        target(                                                                                                        \
            "avx512f,avx512vl,avx512dq,avx512bw,avx2,fma,tune=skylake-avx512,prefer-vector-width=512"))) static void   \
        name##_64 PARAMETERS {                                                                                         \
        body<64> ARGUMENTS;                                                                                            \
    }                                                                                                                  \
    void name PARAMETERS {                                                                                             \
        switch (::loom::dsp::width()) {                                                                                \
        case ::loom::dsp::Width::avx512:                                                                               \
            return name##_64 ARGUMENTS;                                                                                \
        case ::loom::dsp::Width::avx2:                                                                                 \
            return name##_32 ARGUMENTS;                                                                                \
        default:                                                                                                       \
            return name##_16 ARGUMENTS;                                                                                \
        }                                                                                                              \
    }
#else
#define LOOM_WIDE(name, body, PARAMETERS, ARGUMENTS)                                                                   \
    void name PARAMETERS {                                                                                             \
        body<16> ARGUMENTS;                                                                                            \
    }
#endif
