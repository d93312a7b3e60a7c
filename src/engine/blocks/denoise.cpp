// Noise reduction: turns steady noise down under speech.
#include "dsp/noise_reduction.h"
#include "engine/blocks/common.h"

namespace loom::engine {
namespace {

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
            channels_[c]->process(in[c], out[c], frames, params_.now(1));
            most = std::min(most, channels_[c]->reducedDb());
        }
        shown_.store(static_cast<float>(most), std::memory_order_relaxed);
    }
    std::vector<std::unique_ptr<dsp::NoiseReduction>> channels_;
    std::atomic<float> shown_{0};
};

} // namespace

BlockKind declare_denoise() {
    BlockKind k;
    k.id = "denoise", k.label = "Noise reduction", k.group = Group::speech;
    k.purpose = "Turns the steady noise of fans and projectors down, under speech and in its pauses.";
    k.shape = {channelsSpec(32)};
    k.params = [](const Shape&) -> std::vector<ParamSpec> {
        return {onOffParam("on", "On", true), glidingLevel("reduction", "Reduction", 0, 30, 12)};
    };
    k.inputs = k.outputs = channelsOf;
    k.cost = [](const Shape& s, double) { return Cost{40.0 * channelsOf(s), 24e3 * channelsOf(s)}; };
    k.kernel = [](const KernelSetup& s, const ParamTable& t, const std::vector<double>& v) -> std::unique_ptr<Kernel> {
        return std::make_unique<DenoiseKernel>(t, v, s.rate, channelsOf(s.shape));
    };
    k.latency = [](const Values& v, double) { return v["on"] >= 0.5 ? dsp::spectralLatency : 0; };
    k.readouts = {{"gain", "Gain", "dB", -40, 0}};
    k.glyph = Glyph::number, k.glyphParam = "reduction";
    k.flat = [](const Values& v) { return v["reduction"] == 0; };
    return k;
}

} // namespace loom::engine
