// Long finite impulse responses, by partitioned convolution.
#pragma once
#include "dsp/lanes.h"
#include "dsp/real_fft.h"
#include <memory>
#include <span>
#include <vector>

namespace loom::dsp {

inline constexpr int convolverBlock = 64;
inline constexpr int convolverLatency = convolverBlock;
inline constexpr std::size_t maxTaps = 16384;

// The response's partitions of 64 taps in the frequency domain; shared by the channels that use it.
class ConvolverTaps {
  public:
    explicit ConvolverTaps(std::span<const float> taps); // more than maxTaps are cut off
    std::size_t partitions() const { return partitions_; }

  private:
    friend class Convolver;
    std::size_t partitions_ = 0;
    AlignedFloats memory_;
    const float* spectrum(std::size_t p) const;
};

// Uniformly partitioned overlap-save convolution (T. Stockham 1966; partitions as in W. Gardner, "Efficient convolution
// without input-output delay", J. Audio Eng. Soc. 43, 1995, of one size). Memory is taken by the constructor only.
class Convolver {
  public:
    explicit Convolver(std::shared_ptr<const ConvolverTaps> taps);
    ~Convolver();
    // Any number of samples; the sound is convolverLatency samples later.
    void process(const float* in, float* out, int frames);

  private:
    void runBlock();
    std::shared_ptr<const ConvolverTaps> taps_;
    AlignedFloats memory_;
    float *line_, *sum_, *time_; // spectra of past blocks, sum of products, time domain
    alignas(64) float incoming_[2 * convolverBlock]{}, ready_[convolverBlock]{};
    std::size_t newest_ = 0;
    int fill_ = 0;
};

} // namespace loom::dsp
