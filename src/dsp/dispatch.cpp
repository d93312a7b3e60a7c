#include "dsp/dispatch.h"

namespace loom::dsp {

Width widest() {
#if LOOM_MANY_WIDTHS
    if (__builtin_cpu_supports("avx512f") && __builtin_cpu_supports("avx512vl") && __builtin_cpu_supports("avx512dq") &&
        __builtin_cpu_supports("avx512bw"))
        return Width::avx512;
    if (__builtin_cpu_supports("avx2") && __builtin_cpu_supports("fma"))
        return Width::avx2;
#endif
    return Width::any;
}

namespace {
Width chosen = widest();
}

Width width() {
    return chosen;
}
void useWidth(Width w) {
    chosen = w;
}

} // namespace loom::dsp
