// Compressor.
#include "engine/blocks/dynamics.h"

namespace loom::engine {
namespace {

enum { compOn, compThreshold, compRatio, compKnee, compAttack, compRelease, compMakeUp };

class CompressorKernel final : public DynamicsKernel {
  public:
    CompressorKernel(const ParamTable& t, const std::vector<double>& v, double rate, int channels)
        : DynamicsKernel(t, v, rate, channels) {
        prepare(maxFrame);
    }

  private:
    void prepare(int) noexcept override {
        down_ = dsp::onePole(params_.target(compAttack) / 1000, stepsPerSecond(rate_));
        up_ = dsp::onePole(params_.target(compRelease) / 1000, stepsPerSecond(rate_));
        fall_ = dsp::onePole(0.010, stepsPerSecond(rate_));
    }
    double wanted(double level) const noexcept override {
        return dsp::compressorGainDb(level, params_.now(compThreshold), params_.now(compRatio), params_.now(compKnee)) +
               params_.now(compMakeUp);
    }
    void process(Inputs in, Outputs out, int frames) noexcept override { run(in, out, in, frames); }
};

} // namespace

BlockKind declare_compressor() {
    BlockKind k;
    k.id = "compressor", k.label = "Compressor", k.group = Group::dynamics;
    k.purpose = "Evens out levels above a threshold; all channels of the block keep one gain.";
    k.shape = {channelsSpec()};
    k.params = [](const Shape&) -> std::vector<ParamSpec> {
        return {onOffParam("on", "On", true),
                glidingLevel("threshold", "Threshold", -80, 0, -20),
                ratioParam("ratio", "Ratio", 1, 20, 3),
                glidingLevel("knee", "Knee", 0, 24, 6),
                timeParam("attack", "Attack", 0.1, 200, 10),
                timeParam("release", "Release", 5, 3000, 150),
                glidingLevel("makeup", "Make-up gain", 0, 24, 0)};
    };
    k.inputs = k.outputs = channelsOf;
    k.cost = [](const Shape& s, double) { return Cost{17 + 2.0 * channelsOf(s), 128}; };
    k.kernel = [](const KernelSetup& s, const ParamTable& t, const std::vector<double>& v) -> std::unique_ptr<Kernel> {
        return std::make_unique<CompressorKernel>(t, v, s.rate, channelsOf(s.shape));
    };
    k.transfer = [](const Values& v, double in) {
        return in + dsp::compressorGainDb(in, v["threshold"], v["ratio"], v["knee"]) + v["makeup"];
    };
    k.readouts = {{"gain", "Gain", "dB", -40, 0}};
    k.picture = Picture::transfer;
    k.glyph = Glyph::transfer;
    k.flat = [](const Values& v) { return v["ratio"] == 1 && v["makeup"] == 0; };
    return k;
}

} // namespace loom::engine
