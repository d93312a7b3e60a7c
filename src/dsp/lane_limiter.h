// Peak limiters with look-ahead, eight side by side.
#pragma once
#include "dsp/lanes.h"
#include <array>

namespace loom::dsp {

inline constexpr int limiterLook = 64;                 // samples over which the gain comes down before a peak
inline constexpr int limiterLatency = limiterLook - 1; // samples by which the sound is later

// What one limiter remembers, oldest first.
struct LimiterState {
    std::array<float, limiterLook> wanted, smooth, sound;
    float held = 1;
    LimiterState() {
        wanted.fill(1);
        smooth.fill(1);
        sound.fill(0);
    }
};

// The gain that each sample wants is held for the window, released by a one-pole, and averaged over the window: it has
// come down by the time the delayed sample leaves, so that no sample exceeds the threshold (but for rounding), and
// moves without a corner. As with LaneCascade, the state of a lane is held here while it runs.
class LaneLimiter {
  public:
    void take(int lane, const LimiterState& s);
    void giveBack(int lane, LimiterState& s) const;
    // thresholds (> 0) and release coefficients (0..1 a sample) by lane; lowest[lane] gets the smallest gain of the
    // frame.
    void process(const float* in, float* out, int frames, const float* thresholds, const float* releases,
                 float* lowest);

  private:
    friend struct LaneLimiterLoops;
    alignas(64) float wanted_[limiterLook][laneCount],
        after_[limiterLook + 1][laneCount]; // after_: smallest from here on
    alignas(64) float smooth_[limiterLook][laneCount], sound_[limiterLook][laneCount];
    alignas(64) float held_[laneCount], sum_[laneCount], soFar_[laneCount];
    int at_ = 0; // place in the window, the same for all lanes
    void beginWindow();
};

} // namespace loom::dsp
