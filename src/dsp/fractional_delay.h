// A delay line whose length need not be a whole number of samples.
#pragma once
#include "dsp/lanes.h"
#include "dsp/units.h"
#include <array>
#include <span>
#include <vector>

namespace loom::dsp {

inline constexpr int delayTaps = 64;
inline constexpr double firstFractionalDelay = delayTaps / 2.0; // shorter delays go in whole samples
inline constexpr int fineLatency =
    delayTaps / 2; // added to a delay, every fraction of a sample is possible from zero on

// A delay as it is made: whole samples, then the interpolator's taps (none for a whole number).
struct DelayDesign {
    int whole = 0;
    bool fractional = false;
    std::array<float, delayTaps> taps{}; // oldest sample first
};

// Designs a delay of `samples` (>= 0). Below 32 samples it is rounded to a whole number; from there on a 64-tap
// Kaiser-windowed sinc is used (Kaiser & Schafer 1980, beta 8; error below 0.001 dB to 0.45 of the rate).
DelayDesign designDelay(double samples);
Complex response(const DelayDesign& d, double hz, double rate);

// Ring buffer. Memory is taken by prepare() only.
class DelayLine {
  public:
    void prepare(int maxSamples);
    void clear();
    // Takes a frame in; then gives that frame delayed: where it lies in the line, or, if it had to be worked out, in
    // `made` (room for maxFrame samples).
    void write(const float* in, int frames);
    const float* read(const DelayDesign& d, float* made, int frames) const;

  private:
    std::vector<float> ring_{0.0f, 0.0f};
    int length_ = 1, head_ = 0; // head_: the newest sample
};

} // namespace loom::dsp
