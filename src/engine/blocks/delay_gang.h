// What blocks that hold sound back have in common: lines of samples, and a cross-fade to another time.
#pragma once
#include "dsp/fractional_delay.h"
#include "engine/blocks/common.h"
#include <cmath>

namespace loom::engine {

struct DelayTime {
    int param;      // that says it
    double perUnit; // samples
    double longest; // samples
    bool whole;     // rounded to whole samples
    int fine = -1;  // the switch that adds dsp::fineLatency, so that fractions are possible from zero on; -1: none
};

class DelayKernel final : public Kernel {
  public:
    DelayKernel(const ParamTable& t, const std::vector<double>& v, double rate, int channels, const DelayTime& how)
        : Kernel(t, v, rate), how_(how), samples_(samplesOf(v)), now_(dsp::designDelay(samples_)),
          lines_(static_cast<std::size_t>(channels)) {
        for (auto& l : lines_)
            l.prepare(static_cast<int>(how.longest) + 2 * dsp::delayTaps);
    }
    // Takes a frame in and gives where it lies delayed: in the line itself, or worked out into `made`.
    const float* runLane(int channel, const float* in, float* made, int frames) noexcept {
        auto& line = lines_[static_cast<std::size_t>(channel)];
        line.write(in, frames);
        const float* fresh = line.read(now_, made, frames);
        if (left_ == 0)
            return fresh;
        float stale[maxFrame];
        const float* old = line.read(old_, stale, frames);
        for (int i = 0; i < frames; ++i) {
            const double keep = 0.5 - 0.5 * std::cos(dsp::pi * std::max(left_ - i, 0) / fadeSamples);
            made[i] = static_cast<float>(fresh[i] + keep * (old[i] - fresh[i]));
        }
        return made;
    }

  private:
    static constexpr int fadeSamples = 2048;
    double samplesOf(const auto& values) const {
        const auto at = [&](int i) { return values[static_cast<std::size_t>(i)]; };
        const double samples = at(how_.param) * how_.perUnit;
        return (how_.whole ? std::round(samples) : samples) +
               (how_.fine >= 0 && at(how_.fine) >= 0.5 ? dsp::fineLatency : 0);
    }

    // left_ is what a cross-fade still has to go at the start of this frame.
    void prepare(int frames) noexcept override {
        left_ = std::max(0, left_ - last_);
        last_ = frames;
        struct Targets {
            const decltype(params_)& params;
            double operator[](std::size_t i) const { return params.target(static_cast<int>(i)); }
        };
        if (const double wanted = samplesOf(Targets{params_}); left_ == 0 && wanted != samples_) {
            samples_ = wanted;
            old_ = now_;
            now_ = dsp::designDelay(samples_);
            left_ = fadeSamples;
        }
        awake_ = left_ > 0;
    }

    DelayTime how_;
    double samples_;
    dsp::DelayDesign now_, old_;
    int left_ = 0, last_ = 0;
    std::vector<dsp::DelayLine> lines_;
};

class DelayGang final : public Gang {
  public:
    void assign(const std::array<GangLane, laneCount>& lanes) override { lanes_ = lanes; }
    void process(const float* in, float* out, int frames) noexcept override {
        float apart[laneCount][maxFrame], made[laneCount][maxFrame];
        float* to[laneCount];
        dsp::Strided from[laneCount];
        for (std::size_t l = 0; l < laneCount; ++l)
            to[l] = lanes_[l].kernel ? apart[l] : nullptr;
        dsp::scatter(in, to, frames);
        for (std::size_t l = 0; l < laneCount; ++l)
            if (lanes_[l].kernel)
                from[l].at = const_cast<float*>(
                    static_cast<DelayKernel*>(lanes_[l].kernel)->runLane(lanes_[l].channel, apart[l], made[l], frames));
        dsp::gather(from, out, frames);
    }

  private:
    std::array<GangLane, laneCount> lanes_{};
};

inline void declareDelay(BlockKind& k) {
    k.flow = Flow::ganged;
    k.family = "delay";
    k.gang = [] { return std::make_unique<DelayGang>(); };
}

} // namespace loom::engine
