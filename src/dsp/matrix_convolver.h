// Many long responses at once: every input through a response of its own to every output.
#pragma once
#include "dsp/real_fft.h"
#include <span>
#include <vector>

namespace loom::dsp {

// Uniformly partitioned overlap-save (T. Stockham 1966), block by block, with one transform an input and one an output
// however many responses there are; what is below -160 dB counts as silence and costs nothing. Memory is taken by the
// constructor and set().
class MatrixConvolver {
  public:
    // block: samples at a time, > 0. Nothing is later than the responses themselves.
    MatrixConvolver(std::size_t inputs, std::size_t outputs, int block);
    // Samples that are no numbers count as 0; an empty response is silence.
    void set(std::size_t input, std::size_t output, std::span<const float> taps);
    // A pointer to `block` samples per input (null: silence) and output.
    void process(const float* const* in, float* const* out);

  private:
    struct Response {
        std::size_t partitions = 0;
        AlignedFloats spectra{}; // partition by partition: real parts, imaginary parts
    };
    struct Line { // an input's past
        AlignedFloats spectra{};
        std::vector<float> before{};
        std::vector<char> sounds{}; // by partition; silent ones need no work
        bool soundedBefore = false;
    };
    std::size_t at(std::size_t input, std::size_t output) const { return input * outputs_ + output; }
    std::size_t inputs_, outputs_, block_, row_, partitions_ = 1, newest_ = 0;
    SplitFft fft_;
    std::vector<Response> responses_;
    std::vector<Line> lines_;
    std::vector<const float*> spectra_, factors_; // whose products make an output
    AlignedFloats time_, sum_;
};

} // namespace loom::dsp
