// Hot loops are compiled twice, for any machine and for those with AVX2 and FMA; the loader picks at start. Results
// differ by rounding only. Left out where the compiler or a sanitizer cannot do it.
#pragma once

#if defined(__x86_64__) && defined(__GNUC__) && !defined(__clang__) && !defined(__SANITIZE_ADDRESS__) &&               \
    !defined(__SANITIZE_THREAD__)
#define LOOM_HOT __attribute__((target_clones("arch=haswell", "default")))
#else
#define LOOM_HOT
#endif
