// Limiter: nothing passes its peak threshold, and the mean over a driver's thermal time constant stays below another.
#include "dsp/dynamics.h"
#include "dsp/lane_level.h"
#include "dsp/lane_limiter.h"
#include "engine/blocks/common.h"
#include <cmath>

namespace loom::engine::limiter_block {
namespace {

ParamSet params;
const Param limOn = params.add(onOffParam("on", "On", true));
const Param limPeak = params.add(levelParam("peak", "Peak threshold", -60, 0, -1));
const Param limRelease = params.add(timeParam("release", "Release", 5, 3000, 100));
const Param limThermal = params.add(onOffParam("thermal", "Thermal", false));
const Param limRms = params.add(levelParam("rms", "Thermal threshold", -60, 0, -10));
const Param limSeconds = params.add(secondsParam("seconds", "Time constant", 0.1, 60, 4));

class LimiterKernel final : public Kernel {
  public:
    struct Lane {
        dsp::LimiterState peak;
        double power = 0;
        float gain = 1; // of the thermal part
    };
    LimiterKernel(const ParamTable& t, const std::vector<double>& v, double rate, int channels)
        : Kernel(t, v, rate), lanes_(static_cast<std::size_t>(channels)) {
        prepare(maxFrame);
    }
    Lane& lane(int channel) { return lanes_[static_cast<std::size_t>(channel)]; }
    float threshold() const { return threshold_; }
    float release() const { return release_; }
    // Works, or has not yet let go.
    bool thermal(const Lane& l) const { return params_.target(limThermal) >= 0.5 || l.gain < 0.9999f; }
    // The gain that brings the mean power down to its threshold; follows over the time constant.
    float thermalGain(Lane& l, double meanPower, int frames) const {
        l.power += dsp::onePole(params_.target(limSeconds), rate_ / frames) * (meanPower - l.power);
        if (!std::isfinite(l.power))
            l.power = 0;
        const double most = params_.now(limRms) * params_.now(limRms);
        const bool on = params_.target(limThermal) >= 0.5;
        const double want = on && l.power > most ? std::sqrt(most / l.power) : 1.0;
        l.gain += static_cast<float>(dsp::onePole(0.05, rate_ / frames) * (want - l.gain));
        return l.gain;
    }
    void report(float gain) { reduction_.store(static_cast<float>(dsp::dbFromGain(gain)), std::memory_order_relaxed); }
    float readout(int) const noexcept override { return reduction_.load(std::memory_order_relaxed); }

  private:
    void prepare(int) noexcept override {
        threshold_ = static_cast<float>(params_.now(limPeak));
        release_ = static_cast<float>(dsp::onePole(params_.target(limRelease) / 1000, rate_));
    }
    std::vector<Lane> lanes_;
    float threshold_ = 1, release_ = 1;
    std::atomic<float> reduction_{0};
};

class LimiterGang final : public Gang {
  public:
    void assign(const std::array<GangLane, laneCount>& lanes) override {
        for (std::size_t l = 0; l < laneCount; ++l) {
            kernels_[l] = static_cast<LimiterKernel*>(lanes[l].kernel);
            lanes_[l] = kernels_[l] ? &kernels_[l]->lane(lanes[l].channel) : nullptr;
        }
    }
    void release() noexcept override {
        for (std::size_t l = 0; held_ && l < laneCount; ++l)
            if (lanes_[l])
                limiter_.giveBack(static_cast<int>(l), lanes_[l]->peak);
        held_ = false;
    }
    void process(const float* in, float* out, int frames) noexcept override {
        if (!held_)
            for (std::size_t l = 0; l < laneCount; ++l)
                limiter_.take(static_cast<int>(l), lanes_[l] ? lanes_[l]->peak : dsp::LimiterState{});
        held_ = true;
        float thresholds[laneCount], releases[laneCount], lowest[laneCount];
        bool thermal = false;
        for (std::size_t l = 0; l < laneCount; ++l) {
            thresholds[l] = kernels_[l] ? kernels_[l]->threshold() : 1;
            releases[l] = kernels_[l] ? kernels_[l]->release() : 1;
            thermal = thermal || (kernels_[l] && kernels_[l]->thermal(*lanes_[l]));
        }
        alignas(64) float cooled[dsp::bundleSize];
        if (thermal)
            in = cool(in, cooled, frames);
        limiter_.process(in, out, frames, thresholds, releases, lowest);
        for (std::size_t l = 0; l < laneCount; ++l)
            if (kernels_[l])
                kernels_[l]->report(lowest[l] * (thermal ? lanes_[l]->gain : 1.0f));
    }

  private:
    const float* cool(const float* in, float* out, int frames) {
        float peaks[laneCount]{}, powers[laneCount]{}, from[laneCount], to[laneCount];
        dsp::levelsOf(in, frames, peaks, powers);
        for (std::size_t l = 0; l < laneCount; ++l) {
            from[l] = to[l] = 1;
            if (!kernels_[l] || !kernels_[l]->thermal(*lanes_[l]))
                continue;
            from[l] = lanes_[l]->gain;
            to[l] = kernels_[l]->thermalGain(*lanes_[l], powers[l] / static_cast<float>(frames), frames);
        }
        dsp::rampLanes(in, from, to, out, frames);
        return out;
    }
    std::array<LimiterKernel*, laneCount> kernels_{};
    std::array<LimiterKernel::Lane*, laneCount> lanes_{};
    dsp::LaneLimiter limiter_;
    bool held_ = false;
};

} // namespace

BlockKind declare() {
    BlockKind k;
    k.id = "limiter";
    k.label = "Limiter";
    k.group = Group::dynamics;
    k.purpose = "Lets no peak pass its threshold, looking ahead; holds the long-term level for a driver's coil.";
    k.shape = {channelsSpec()};
    k.params = params;
    k.inputs = k.outputs = channelsOf;
    k.cost = [](const Shape& s, double) { return Cost{1.6 * channelsOf(s), 1200.0 * channelsOf(s)}; };
    k.kernel = perChannelKernel<LimiterKernel>();
    k.flow = Flow::ganged;
    k.family = "limiter";
    k.gang = [] { return std::make_unique<LimiterGang>(); };
    k.latency = [](const Values& v, double) { return v[limOn] >= 0.5 ? dsp::limiterLatency : 0; };
    k.transfer = [](const Values& v, double inDb) { return std::min(inDb, v[limPeak]); };
    k.readouts = {{"gain", "Gain", "dB", -40, 0}};
    k.picture = Picture::transfer;
    k.glyph = Glyph::transfer;
    return k;
}

} // namespace loom::engine::limiter_block
