// Many responses at once that are long and must not be late: rooms between loudspeakers and microphones.
#pragma once
#include "dsp/matrix_convolver.h"
#include <memory>

namespace loom::dsp {

// As MatrixConvolver, in partitions that grow (W. Gardner, "Efficient convolution without input-output delay", J. Audio
// Eng. Soc. 43, 1995): the first eight blocks of each response in blocks of `block`, the rest in the same way in blocks
// eight times as long.
class LongMatrix {
  public:
    LongMatrix(std::size_t inputs, std::size_t outputs, int block);
    void set(std::size_t input, std::size_t output, std::span<const float> taps);
    // A pointer to `block` samples per input (null: silence) and output; nothing is later than the responses.
    void process(const float* const* in, float* const* out);

  private:
    static constexpr std::size_t ratio = 8;
    std::size_t inputs_, outputs_, block_, part_ = 0; // part: which short block of a long one comes next
    MatrixConvolver head_;
    std::unique_ptr<LongMatrix> tail_{};              // none: all responses are short
    std::vector<std::vector<float>> gathered_, rest_; // inputs of this long block; what the one before left for it
};

} // namespace loom::dsp
