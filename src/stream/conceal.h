// Short gaps in sound, filled as what lies beside them goes on: least squares of an autoregressive model (A. Janssen,
// R. Veldhuis, L. Vries, IEEE Trans. ASSP 34 (1986) 317, eq. 12 to 15, one step).
#pragma once
#include <cstddef>
#include <span>
#include <vector>

namespace loom::stream {

class Concealer {
  public:
    static constexpr std::size_t order = 32, longest = 256, most = 2048; // samples: of a gap, of a whole signal
    Concealer();
    // Fills signal[from, to) from what lies before it and behind it. At least 2 * order samples must lie before; if
    // fewer than `order` lie behind, it goes on from the left alone and fades. Takes no memory.
    void fill(std::span<float> signal, std::size_t from, std::size_t to);

  private:
    static constexpr std::size_t context = 512;                  // samples that the model is made from
    void model(std::span<const float> signal, std::size_t from); // a_
    std::vector<double> a_, products_, matrix_, right_;
};

} // namespace loom::stream
