// Compressor.
#include "engine/blocks/dynamics.h"

namespace loom::engine::compressor_block {
namespace {

ParamSet params;
const Param compOn = params.add(onOffParam("on", "On", true));
const Param compThreshold = params.add(glidingLevel("threshold", "Threshold", -80, 0, -20));
const Param compRatio = params.add(ratioParam("ratio", "Ratio", 1, 20, 3));
const Param compKnee = params.add(glidingLevel("knee", "Knee", 0, 24, 6));
const Param compAttack = params.add(timeParam("attack", "Attack", 0.1, 200, 10));
const Param compRelease = params.add(timeParam("release", "Release", 5, 3000, 150));
const Param compMakeUp = params.add(glidingLevel("makeup", "Make-up gain", 0, 24, 0));

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

BlockKind declare() {
    BlockKind k;
    k.id = "compressor";
    k.label = "Compressor";
    k.group = Group::dynamics;
    k.purpose = "Evens out levels above a threshold; all channels of the block keep one gain.";
    k.shape = {channelsSpec()};
    k.params = params;
    k.inputs = k.outputs = channelsOf;
    k.cost = [](const Shape& s, double) { return Cost{17 + 2.0 * channelsOf(s), 128}; };
    k.kernel = perChannelKernel<CompressorKernel>();
    k.transfer = [](const Values& v, double in) {
        return in + dsp::compressorGainDb(in, v[compThreshold], v[compRatio], v[compKnee]) + v[compMakeUp];
    };
    k.readouts = {{"gain", "Gain", "dB", -40, 0}};
    k.picture = Picture::transfer;
    k.glyph = Glyph::transfer;
    k.neutral = [](const Values& v) { return v[compRatio] == 1 && v[compMakeUp] == 0; };
    return k;
}

} // namespace loom::engine::compressor_block
