// What preamp and level have in common: one gain with polarity and mute, all of them gliding.
#pragma once
#include "dsp/lane_level.h"
#include "engine/blocks/common.h"

namespace loom::engine {

// Which of them a block has.
struct GainParams {
    Param gain{}, polarity{}, mute{};
};

class GainKernel final : public Kernel {
  public:
    GainKernel(const ParamTable& t, const std::vector<double>& v, double rate, GainParams has)
        : Kernel(t, v, rate), has_(has) {
        from_ = to_ = now();
    }
    float from() const { return from_; }
    float to() const { return to_; }

  private:
    double now(Param p, double none) const { return p.at < 0 ? none : params_.now(p); }
    float now() const {
        return static_cast<float>(now(has_.gain, 1) * (1 - 2 * now(has_.polarity, 0)) * (1 - now(has_.mute, 0)));
    }
    void prepare(int) noexcept override {
        from_ = to_;
        to_ = now();
        awake_ = from_ != to_;
    }
    GainParams has_;
    float from_, to_;
};

class GainGang final : public Gang {
  public:
    void assign(const std::array<GangLane, laneCount>& lanes) override {
        for (std::size_t l = 0; l < laneCount; ++l)
            kernels_[l] = static_cast<const GainKernel*>(lanes[l].kernel);
    }
    void process(const float* in, float* out, int frames) noexcept override {
        float from[laneCount], to[laneCount];
        for (std::size_t l = 0; l < laneCount; ++l) {
            from[l] = kernels_[l] ? kernels_[l]->from() : 0;
            to[l] = kernels_[l] ? kernels_[l]->to() : 0;
        }
        dsp::rampLanes(in, from, to, out, frames);
    }

  private:
    std::array<const GainKernel*, laneCount> kernels_{};
};

inline void declareGainSound(BlockKind& k, GainParams has) {
    k.inputs = k.outputs = channelsOf;
    k.cost = [](const Shape& s, double) { return Cost{0.3 * channelsOf(s), 64}; };
    k.flow = Flow::ganged;
    k.family = "gain";
    k.gang = [] { return std::make_unique<GainGang>(); };
    k.kernel = [has](const KernelSetup& s, const ParamTable& t,
                     const std::vector<double>& v) -> std::unique_ptr<Kernel> {
        return std::make_unique<GainKernel>(t, v, s.rate, has);
    };
}

// Gain, extra parameters, polarity and mute; `kind` gets everything but its name.
inline void declareGain(BlockKind& k, const ParamSpec& gain, const std::vector<ParamSpec>& extra) {
    k.group = Group::level;
    k.shape = {channelsSpec()};
    ParamSet params;
    GainParams has;
    has.gain = params.add(gain);
    for (const auto& spec : extra)
        params.add(spec);
    has.polarity = params.add(polarityParam("polarity", "Polarity"));
    has.mute = params.add(gliding(onOffParam("mute", "Mute", false)));
    k.params = params;
    declareGainSound(k, has);
    k.response = perChannel([gain, has](const Values& v, double, double) -> dsp::Complex {
        const bool silent = v[has.mute] >= 0.5 || (gain.minIsOff && v[has.gain] <= gain.min);
        return silent ? 0.0 : dsp::gainFromDb(v[has.gain]) * (v[has.polarity] >= 0.5 ? -1.0 : 1.0);
    });
    k.glyph = Glyph::number;
    k.glyphParam = "gain";
    k.neutral = [has](const Values& v) { return v[has.gain] == 0 && v[has.polarity] == 0 && v[has.mute] == 0; };
}

} // namespace loom::engine
