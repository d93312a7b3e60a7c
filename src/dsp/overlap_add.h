// Changing sound band by band: windowed spectra in, gains on them, sound out.
#pragma once
#include "dsp/real_fft.h"
#include <cmath>

namespace loom::dsp {

inline constexpr int spectralHop = 256, spectralSize = 2 * spectralHop, spectralBins = spectralHop + 1;
inline constexpr int spectralLatency = spectralSize;

// Short-time Fourier analysis and synthesis, root-Hann windows half overlapping, so that gains of 1 give back the sound
// spectralLatency samples later. Only the constructor allocates.
class OverlapAdd {
  public:
    OverlapAdd();
    // Any number of samples; in and out may be the same. change(re, im) is called for each new spectrum and multiplies
    // it.
    template <class F> void process(const float* in, float* out, int frames, F&& change) {
        for (int i = 0; i < frames; ++i) {
            const float x = std::isfinite(in[i]) ? in[i] : 0;
            out[i] = ready_[static_cast<std::size_t>(fill_)];
            past_[static_cast<std::size_t>(spectralHop + fill_)] = x;
            if (++fill_ == spectralHop) {
                analyse();
                change(re_.get(), im_.get());
                synthesise();
                fill_ = 0;
            }
        }
    }

  private:
    void analyse();
    void synthesise();
    SplitFft fft_;
    AlignedFloats past_, window_, time_, re_, im_, ready_, overlap_;
    int fill_ = 0;
};

} // namespace loom::dsp
