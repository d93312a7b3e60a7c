// What compressor, gate and ducker have in common: a level is followed, a static curve says the gain in dB, the gain is
// smoothed, and goes straight from step to step.
#pragma once
#include "dsp/dynamics.h"
#include "engine/blocks/common.h"
#include <algorithm>
#include <cmath>

namespace loom::engine {

inline constexpr int gainStep = 4; // samples between two gains

// All channels of a block share one gain, made from the loudest of them, so that a stereo image stands still.
class DynamicsKernel : public Kernel {
  public:
    DynamicsKernel(const ParamTable& t, const std::vector<double>& v, double rate, int channels)
        : Kernel(t, v, rate), channels_(static_cast<std::size_t>(channels)) {}
    float readout(int) const noexcept override { return shown_.load(std::memory_order_relaxed); }

  protected:
    // Gain in dB wanted for a level in dB.
    virtual double wanted(double levelDb) const noexcept = 0;
    // Keys (what is listened to) may be the channels themselves.
    void run(Inputs in, Outputs out, Inputs keys, int frames) noexcept {
        double lowest = 0;
        for (int i = 0; i < frames; i += gainStep) {
            const int n = std::min(gainStep, frames - i);
            double loudest = 0;
            for (const float* key : keys)
                for (int k = i; k < i + n; ++k) {
                    const double size = std::abs(static_cast<double>(key[k]));
                    loudest = size > loudest ? size : loudest; // not a number counts as silence
                }
            const double goal = gain(std::min(loudest, 1e6), n);
            const double step = (goal - last_) / n;
            for (std::size_t c = 0; c < channels_; ++c)
                for (int k = 0; k < n; ++k)
                    out[c][i + k] = static_cast<float>(in[c][i + k] * (last_ + step * (k + 1)));
            last_ = goal;
            lowest = std::min(lowest, smooth_.gainDb);
        }
        shown_.store(static_cast<float>(lowest), std::memory_order_relaxed);
    }
    // Coefficients a gain step; set by prepare().
    double down_ = 1, up_ = 1, fall_ = 1;
    int hold_ = 0; // steps for which the gain does not change back
    bool holdsDown_ = true;

  private:
    double gain(double size, int n) noexcept {
        // The level follows peaks at once and falls with a short time constant, so that it does not trace the wave.
        const double power = size * size;
        level_ = power > level_ ? power : level_ + fall_ * n / gainStep * (power - level_);
        const double want = wanted(10 * std::log10(level_ + 1e-20));
        const bool returning = holdsDown_ ? want > smooth_.gainDb : want < smooth_.gainDb;
        if (!returning)
            held_ = hold_;
        if (returning && held_ > 0)
            --held_;
        else
            smooth_.step(want, down_, up_);
        return dsp::gainFromDb(smooth_.gainDb);
    }
    std::size_t channels_;
    double level_ = 0, last_ = 1;
    dsp::GainSmoother smooth_;
    int held_ = 0;
    std::atomic<float> shown_{0};
};

inline double stepsPerSecond(double rate) {
    return rate / gainStep;
}

} // namespace loom::engine
