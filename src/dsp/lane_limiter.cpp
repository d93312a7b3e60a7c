#include "dsp/lane_limiter.h"
#include <algorithm>

namespace loom::dsp {

struct LaneLimiterLoops {
    template <int B>
    LOOM_INLINE static void run(LaneLimiter& s, const float* in, float* out, int from, int to, const float* thresholds,
                                const float* releases, float* lowest) {
        using E = EightF<B>;
        const E t = E::load(thresholds), release = E::load(releases), one = E::all(1);
        E held = E::load(s.held_), sum = E::load(s.sum_), soFar = E::load(s.soFar_), low = E::load(lowest);
        const auto smaller = [](const auto& a, const auto& b) __attribute__((always_inline)) {
            return a < b ? a : b;
        };
        int at = s.at_;
        for (int i = from; i < to; ++i, ++at) {
            const E x = E::load(in + i * laneCount), after = E::load(s.after_[at + 1]), was = E::load(s.smooth_[at]);
            const E old = E::load(s.sound_[(at + 1) % limiterLook]);
            E want, y;
            for (int j = 0; j < E::n; ++j) {
                const auto size = x.v[j] > -x.v[j] ? x.v[j] : -x.v[j];
                want.v[j] = size > t.v[j] ? t.v[j] / size : one.v[j];
                soFar.v[j] = smaller(want.v[j], soFar.v[j]);
                const auto least = smaller(soFar.v[j], after.v[j]);
                const auto risen = held.v[j] + (one.v[j] - held.v[j]) * release.v[j];
                held.v[j] = smaller(least, risen);
                sum.v[j] += held.v[j] - was.v[j];
                const auto gain = sum.v[j] * (1.0f / limiterLook);
                low.v[j] = smaller(gain, low.v[j]);
                y.v[j] = old.v[j] * gain;
            }
            want.store(s.wanted_[at]);
            held.store(s.smooth_[at]);
            x.store(s.sound_[at]);
            y.store(out + i * laneCount);
        }
        s.at_ = at;
        held.store(s.held_);
        sum.store(s.sum_);
        soFar.store(s.soFar_);
        low.store(lowest);
    }
};

namespace {
LOOM_WIDE(runLimiter, LaneLimiterLoops::run,
          (LaneLimiter & s, const float* in, float* out, int from, int to, const float* thresholds,
           const float* releases, float* lowest),
          (s, in, out, from, to, thresholds, releases, lowest))
}

void LaneLimiter::take(int lane, const LimiterState& s) {
    // Only ever all lanes together, before the first frame: the window starts anew with the history as its last one.
    for (int i = 0; i < limiterLook; ++i) {
        const auto n = static_cast<std::size_t>(i);
        wanted_[i][lane] = s.wanted[n];
        smooth_[i][lane] = s.smooth[n];
        sound_[i][lane] = s.sound[n];
    }
    held_[lane] = s.held;
    at_ = 0;
    beginWindow();
}

void LaneLimiter::giveBack(int lane, LimiterState& s) const {
    for (int i = 0; i < limiterLook; ++i) {
        const int at = (at_ + i) % limiterLook; // at_ is the oldest
        const auto n = static_cast<std::size_t>(i);
        s.wanted[n] = wanted_[at][lane];
        s.smooth[n] = smooth_[at][lane];
        s.sound[n] = sound_[at][lane];
    }
    s.held = held_[lane];
}

// The smallest from each place to the end of the window that ended; the sum anew, so that rounding does not add up.
void LaneLimiter::beginWindow() {
    for (int l = 0; l < laneCount; ++l) {
        after_[limiterLook][l] = 1;
        sum_[l] = 0;
        soFar_[l] = 1;
    }
    for (int i = limiterLook - 1; i >= 0; --i)
        for (int l = 0; l < laneCount; ++l) {
            after_[i][l] = std::min(wanted_[i][l], after_[i + 1][l]);
            sum_[l] += smooth_[i][l];
        }
}

void LaneLimiter::process(const float* in, float* out, int frames, const float* thresholds, const float* releases,
                          float* lowest) {
    for (int l = 0; l < laneCount; ++l)
        lowest[l] = 1;
    for (int done = 0; done < frames;) {
        const int n = std::min(frames - done, limiterLook - at_);
        runLimiter(*this, in, out, done, done + n, thresholds, releases, lowest);
        done += n;
        if (at_ == limiterLook) {
            at_ = 0;
            beginWindow();
        }
    }
}

} // namespace loom::dsp
