// Pieces that many block declarations share.
#pragma once
#include "engine/block_kind.h"

namespace loom::engine {

inline ShapeSpec channelsSpec(int max = 64) {
    return {"channels", "Channels", 1, 1, max};
}
inline int channelsOf(const Shape& s) {
    return s.at("channels");
}
inline int noPorts(const Shape&) {
    return 0;
}
inline int countOf(const Shape& s, const char* id) {
    return s.at(id);
}

// Makes a kernel that is told of nothing but its parameters ...
template <class K> auto plainKernel() {
    return [](const KernelSetup& s, const ParamTable& t, const std::vector<double>& v) -> std::unique_ptr<Kernel> {
        return std::make_unique<K>(t, v, s.rate);
    };
}
// ... or of the number of its channels as well.
template <class K> auto perChannelKernel() {
    return [](const KernelSetup& s, const ParamTable& t, const std::vector<double>& v) -> std::unique_ptr<Kernel> {
        return std::make_unique<K>(t, v, s.rate, channelsOf(s.shape));
    };
}

// The same response on every channel, nothing across.
template <class F> auto perChannel(F f) {
    return [f](const Values& v, int in, int out, double hz, double rate) -> dsp::Complex {
        return in == out ? f(v, hz, rate) : dsp::Complex(0);
    };
}

} // namespace loom::engine
