// FIR: a response of up to 16,384 taps from a sound file or a text of numbers.
#include "dsp/convolver.h"
#include "dsp/tap_response.h"
#include "engine/blocks/common.h"

namespace loom::engine::fir_block {
namespace {

ParamSet params;
const Param firOn = params.add(onOffParam("on", "On", true));
const Param firGain = params.add(levelParam("gain", "Level", -24, 24, 0));

// Without a file the block passes sound on, as late as it would be with one.
std::vector<float> tapsOf(const KernelSetup& s) {
    const auto file = s.texts.find("file");
    if (s.resources && s.resources->clip && file != s.texts.end())
        if (const auto clip = s.resources->clip(file->second, s.rate); clip && clip->frames() > 0)
            return clip->channels[0];
    return {1.0f};
}

class FirKernel final : public Kernel {
  public:
    FirKernel(const ParamTable& t, const std::vector<double>& v, const KernelSetup& s, int channels)
        : Kernel(t, v, s.rate) {
        const auto taps = std::make_shared<const dsp::ConvolverTaps>(tapsOf(s));
        for (int c = 0; c < channels; ++c)
            channels_.push_back(std::make_unique<dsp::Convolver>(taps));
    }

  private:
    void process(Inputs in, Outputs out, int frames) noexcept override {
        for (std::size_t c = 0; c < channels_.size(); ++c) {
            channels_[c]->process(in[c], out[c], frames);
            applyGain(out[c], out[c], params_.before(firGain), params_.now(firGain), frames);
        }
    }
    std::vector<std::unique_ptr<dsp::Convolver>> channels_;
};

} // namespace

BlockKind declare() {
    BlockKind k;
    k.id = "fir";
    k.label = "FIR filter";
    k.group = Group::filters;
    k.purpose =
        "Filters with an impulse response from a sound file or a text of numbers, up to 16,384 taps; 64 samples later.";
    k.shape = {channelsSpec()};
    k.params = params;
    k.inputs = k.outputs = channelsOf;
    k.cost = [](const Shape& s, double) { return Cost{30.0 * channelsOf(s), 300e3 * channelsOf(s)}; };
    k.kernel = [](const KernelSetup& s, const ParamTable& t, const std::vector<double>& v) -> std::unique_ptr<Kernel> {
        return std::make_unique<FirKernel>(t, v, s, channelsOf(s.shape));
    };
    k.latency = [](const Values& v, double) { return v[firOn] >= 0.5 ? dsp::convolverLatency : 0; };
    k.files = 1;
    k.taps = true;
    k.tapResponse = [](const Values& v, const std::vector<float>& taps, const std::vector<double>& hz, double rate) {
        auto h = dsp::responseOfTaps(taps, hz, rate);
        for (auto& x : h)
            x *= dsp::gainFromDb(v[firGain]);
        return h;
    };
    k.glyph = Glyph::tape;
    k.picture = Picture::curve;
    return k;
}

} // namespace loom::engine::fir_block
