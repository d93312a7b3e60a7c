// What preamp and level have in common: one gain with polarity and mute, all of them gliding.
#pragma once
#include "engine/blocks/common.h"

namespace loom::engine {

class GainKernel final : public Kernel {
  public:
    GainKernel(const ParamTable& t, const std::vector<double>& v, double rate)
        : Kernel(t, v, rate), gain_(t.indexOf("gain")), invert_(t.indexOf("polarity")), mute_(t.indexOf("mute")) {}

  private:
    void process(Inputs in, Outputs out, int frames) noexcept override {
        const double from = params_.before(gain_) * (1 - 2 * params_.before(invert_)) * (1 - params_.before(mute_));
        const double to = params_.now(gain_) * (1 - 2 * params_.now(invert_)) * (1 - params_.now(mute_));
        for (std::size_t c = 0; c < out.size(); ++c)
            applyGain(in[c], out[c], from, to, frames);
    }
    int gain_, invert_, mute_;
};

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
    k.kernel = [](const KernelSetup& s, const ParamTable& t, const std::vector<double>& v) -> std::unique_ptr<Kernel> {
        return std::make_unique<GainKernel>(t, v, s.rate);
    };
    k.response = perChannel([gain](const Values& v, double, double) -> dsp::Complex {
        const bool silent = v["mute"] >= 0.5 || (gain.minIsOff && v["gain"] <= gain.min);
        return silent ? 0.0 : dsp::gainFromDb(v["gain"]) * (v["polarity"] >= 0.5 ? -1.0 : 1.0);
    });
    k.glyph = Glyph::number, k.glyphParam = "gain";
    k.flat = [](const Values& v) { return v["gain"] == 0 && v["polarity"] == 0 && v["mute"] == 0; };
}

} // namespace loom::engine
