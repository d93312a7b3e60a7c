// Noise reduction: turns steady noise down under speech.
#include "dsp/noise_reduction.h"
#include "engine/blocks/common.h"

namespace loom::engine::denoise_block {
namespace {

ParamSet params;
const Param denoiseOn = params.add(onOffParam("on", "On", true));
const Param denoiseBy = params.add(glidingLevel("reduction", "Reduction", 0, 30, 12));

class DenoiseKernel final : public Kernel {
  public:
    DenoiseKernel(const ParamTable& t, const std::vector<double>& v, double rate, int channels) : Kernel(t, v, rate) {
        for (int c = 0; c < channels; ++c)
            channels_.push_back(std::make_unique<dsp::NoiseReduction>(rate));
    }
    float readout(int) const noexcept override { return shown_.load(std::memory_order_relaxed); }

  private:
    void process(Inputs in, Outputs out, int frames) noexcept override {
        double most = 0;
        for (std::size_t c = 0; c < channels_.size(); ++c) {
            channels_[c]->process(in[c], out[c], frames, params_.now(denoiseBy));
            most = std::min(most, channels_[c]->reducedDb());
        }
        shown_.store(static_cast<float>(most), std::memory_order_relaxed);
    }
    std::vector<std::unique_ptr<dsp::NoiseReduction>> channels_;
    std::atomic<float> shown_{0};
};

} // namespace

BlockKind declare() {
    BlockKind k;
    k.id = "denoise";
    k.label = "Noise reduction";
    k.group = Group::speech;
    k.purpose = "Turns the steady noise of fans and projectors down, under speech and in its pauses.";
    k.shape = {channelsSpec(32)};
    k.params = params;
    k.inputs = k.outputs = channelsOf;
    k.cost = [](const Shape& s, double) { return Cost{40.0 * channelsOf(s), 24e3 * channelsOf(s)}; };
    k.kernel = perChannelKernel<DenoiseKernel>();
    k.latency = [](const Values& v, double) { return v[denoiseOn] >= 0.5 ? dsp::spectralLatency : 0; };
    k.readouts = {{"gain", "Gain", "dB", -40, 0}};
    k.glyph = Glyph::number;
    k.glyphParam = "reduction";
    k.neutral = [](const Values& v) { return v[denoiseBy] == 0; };
    return k;
}

} // namespace loom::engine::denoise_block
