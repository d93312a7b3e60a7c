#include "dsp/overlap_add.h"
#include "dsp/units.h"
#include <algorithm>

namespace loom::dsp {

OverlapAdd::OverlapAdd()
    : fft_(spectralSize), past_(spectralSize), window_(spectralSize), time_(spectralSize), re_(spectralBins),
      im_(spectralBins), ready_(spectralHop), overlap_(spectralHop) {
    for (std::size_t i = 0; i < spectralSize; ++i)
        window_[i] = static_cast<float>(std::sin(pi * (static_cast<double>(i) + 0.5) / spectralSize));
}

void OverlapAdd::analyse() {
    for (std::size_t i = 0; i < spectralSize; ++i)
        time_[i] = past_[i] * window_[i];
    std::copy_n(past_.get() + spectralHop, spectralHop, past_.get());
    fft_.forward(time_.get(), re_.get(), im_.get());
}

void OverlapAdd::synthesise() {
    fft_.backward(re_.get(), im_.get(), time_.get());
    for (std::size_t i = 0; i < spectralHop; ++i) {
        ready_[i] = overlap_[i] + time_[i] * window_[i] / spectralSize;
        overlap_[i] = time_[spectralHop + i] * window_[spectralHop + i] / spectralSize;
    }
}

} // namespace loom::dsp
