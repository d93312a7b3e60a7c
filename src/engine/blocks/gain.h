// What preamp and level have in common: one gain with polarity and mute, all of them gliding.
#pragma once
#include "dsp/lane_level.h"
#include "engine/blocks/common.h"

namespace loom::engine {

class GainKernel final : public Kernel {
  public:
    GainKernel(const ParamTable& t, const std::vector<double>& v, double rate)
        : Kernel(t, v, rate), gain_(t.indexOf("gain")), invert_(t.indexOf("polarity")), mute_(t.indexOf("mute")) {
        from_ = to_ = now();
    }
    float from() const { return from_; }
    float to() const { return to_; }

  private:
    float now() const {
        const double gain = gain_ < 0 ? 1 : params_.now(gain_), turn = invert_ < 0 ? 1 : 1 - 2 * params_.now(invert_);
        return static_cast<float>(gain * turn * (mute_ < 0 ? 1 : 1 - params_.now(mute_)));
    }
    void prepare(int) noexcept override {
        from_ = to_;
        to_ = now();
        awake_ = from_ != to_;
    }
    int gain_, invert_, mute_;
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
        for (std::size_t l = 0; l < laneCount; ++l)
            from[l] = kernels_[l] ? kernels_[l]->from() : 0, to[l] = kernels_[l] ? kernels_[l]->to() : 0;
        dsp::rampLanes(in, from, to, out, frames);
    }

  private:
    std::array<const GainKernel*, laneCount> kernels_{};
};

inline void declareGainSound(BlockKind& k) {
    k.flow = Flow::ganged, k.family = "gain";
    k.gang = [] { return std::make_unique<GainGang>(); };
    k.kernel = [](const KernelSetup& s, const ParamTable& t, const std::vector<double>& v) -> std::unique_ptr<Kernel> {
        return std::make_unique<GainKernel>(t, v, s.rate);
    };
}

// Gain, extra parameters, polarity and mute; `kind` gets everything but its name.
inline void declareGain(BlockKind& k, ParamSpec gain, std::vector<ParamSpec> extra) {
    k.group = Group::level;
    k.shape = {channelsSpec()};
    k.params = [gain, extra](const Shape&) {
        ParamSpec invert = choiceParam("polarity", "Polarity", {"normal", "inverted"});
        ParamSpec mute = onOffParam("mute", "Mute", false);
        invert.glide = mute.glide = Glide::linear;
        std::vector<ParamSpec> all{gain, invert, mute};
        all.insert(all.begin() + 1, extra.begin(), extra.end());
        return all;
    };
    k.inputs = k.outputs = channelsOf;
    k.cost = [](const Shape& s, double) { return Cost{0.3 * channelsOf(s), 64}; };
    declareGainSound(k);
    k.response = perChannel([gain](const Values& v, double, double) -> dsp::Complex {
        const bool silent = v["mute"] >= 0.5 || (gain.minIsOff && v["gain"] <= gain.min);
        return silent ? 0.0 : dsp::gainFromDb(v["gain"]) * (v["polarity"] >= 0.5 ? -1.0 : 1.0);
    });
    k.glyph = Glyph::number, k.glyphParam = "gain";
    k.flat = [](const Values& v) { return v["gain"] == 0 && v["polarity"] == 0 && v["mute"] == 0; };
}

} // namespace loom::engine
