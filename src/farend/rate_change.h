// A stream of sound at another rate, piece by piece.
#pragma once
#include <memory>
#include <vector>

namespace loom::farend {

// By libsamplerate. One channel, one thread.
class RateChange {
  public:
    RateChange(double from, double to); // Hz
    ~RateChange();
    RateChange(RateChange&&) noexcept;
    // Takes `count` samples and adds what they make to `out`; the first come a little late.
    void push(const float* samples, int count, std::vector<float>& out);

  private:
    struct State;
    std::unique_ptr<State> state_;
};

} // namespace loom::farend
