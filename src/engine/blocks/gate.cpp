// Gate and expander: one block, from a gentle slope to a closing door.
#include "engine/blocks/dynamics.h"

namespace loom::engine::gate_block {
namespace {

ParamSet params;
const Param gateOn = params.add(onOffParam("on", "On", true));
const Param gateThreshold = params.add(glidingLevel("threshold", "Threshold", -80, 0, -45));
const Param gateRatio = params.add(ratioParam("ratio", "Ratio", 1, 20, 2));
const Param gateKnee = params.add(glidingLevel("knee", "Knee", 0, 24, 3));
const Param gateRange = params.add(glidingLevel("range", "Range", 0, 80, 40));
const Param gateAttack = params.add(timeParam("attack", "Attack", 0.1, 200, 1));
const Param gateHold = params.add(timeParam("hold", "Hold", 0, 3000, 100));
const Param gateRelease = params.add(timeParam("release", "Release", 5, 3000, 200));

class GateKernel final : public DynamicsKernel {
  public:
    GateKernel(const ParamTable& t, const std::vector<double>& v, double rate, int channels)
        : DynamicsKernel(t, v, rate, channels) {
        holdsDown_ = false; // the gain that is held is the open one
        prepare(maxFrame);
    }

  private:
    void prepare(int) noexcept override {
        up_ = dsp::onePole(params_.target(gateAttack) / 1000, stepsPerSecond(rate_));
        down_ = dsp::onePole(params_.target(gateRelease) / 1000, stepsPerSecond(rate_));
        fall_ = dsp::onePole(0.010, stepsPerSecond(rate_));
        hold_ = static_cast<int>(params_.target(gateHold) / 1000 * stepsPerSecond(rate_));
    }
    double wanted(double level) const noexcept override {
        return dsp::expanderGainDb(level, params_.now(gateThreshold), params_.now(gateRatio), params_.now(gateKnee),
                                   params_.now(gateRange));
    }
    void process(Inputs in, Outputs out, int frames) noexcept override { run(in, out, in, frames); }
};

} // namespace

BlockKind declare() {
    BlockKind k;
    k.id = "gate";
    k.label = "Gate or expander";
    k.group = Group::dynamics;
    k.purpose = "Turns down what lies below a threshold: a little, or shut.";
    k.shape = {channelsSpec()};
    k.params = params;
    k.inputs = k.outputs = channelsOf;
    k.cost = [](const Shape& s, double) { return Cost{16 + 2.0 * channelsOf(s), 128}; };
    k.kernel = perChannelKernel<GateKernel>();
    k.transfer = [](const Values& v, double in) {
        return in + dsp::expanderGainDb(in, v[gateThreshold], v[gateRatio], v[gateKnee], v[gateRange]);
    };
    k.readouts = {{"gain", "Gain", "dB", -40, 0}};
    k.picture = Picture::transfer;
    k.glyph = Glyph::transfer;
    k.neutral = [](const Values& v) { return v[gateRatio] == 1 || v[gateRange] == 0; };
    return k;
}

} // namespace loom::engine::gate_block
