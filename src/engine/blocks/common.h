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

// The same response on every channel, nothing across.
template <class F> auto perChannel(F f) {
    return [f](const Values& v, int in, int out, double hz, double rate) -> dsp::Complex {
        return in == out ? f(v, hz, rate) : dsp::Complex(0);
    };
}

} // namespace loom::engine
