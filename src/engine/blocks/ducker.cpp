// Ducker: turns its sound down while there is sound at the priority inputs.
#include "engine/blocks/dynamics.h"

namespace loom::engine::ducker_block {
namespace {

ParamSet params;
const Param duckOn = params.add(onOffParam("on", "On", true));
const Param duckThreshold = params.add(glidingLevel("threshold", "Threshold", -80, 0, -40));
const Param duckDepth = params.add(glidingLevel("depth", "Depth", 0, 80, 18));
const Param duckAttack = params.add(timeParam("attack", "Attack", 1, 2000, 50));
const Param duckHold = params.add(timeParam("hold", "Hold", 0, 10000, 800));
const Param duckRelease = params.add(timeParam("release", "Release", 5, 10000, 1000));

class DuckerKernel final : public DynamicsKernel {
  public:
    DuckerKernel(const ParamTable& t, const std::vector<double>& v, double rate, int channels)
        : DynamicsKernel(t, v, rate, channels), sound_(static_cast<std::size_t>(channels)) {
        prepare(maxFrame);
    }

  private:
    void prepare(int) noexcept override {
        down_ = dsp::onePole(params_.target(duckAttack) / 1000, stepsPerSecond(rate_));
        up_ = dsp::onePole(params_.target(duckRelease) / 1000, stepsPerSecond(rate_));
        fall_ = dsp::onePole(0.050, stepsPerSecond(rate_));
        hold_ = static_cast<int>(params_.target(duckHold) / 1000 * stepsPerSecond(rate_));
    }
    double wanted(double level) const noexcept override {
        return level > params_.now(duckThreshold) ? -params_.now(duckDepth) : 0.0;
    }
    void process(Inputs in, Outputs out, int frames) noexcept override {
        run(in.first(sound_), out, in.subspan(sound_), frames);
    }
    std::size_t sound_;
};

int keysOf(const Shape& s) {
    return countOf(s, "keys");
}

} // namespace

BlockKind declare() {
    BlockKind k;
    k.id = "ducker";
    k.label = "Ducker";
    k.group = Group::dynamics;
    k.purpose = "Turns music down while somebody speaks: its first inputs are the sound, the last the priority inputs.";
    k.shape = {channelsSpec(), {"keys", "Priority inputs", 1, 1, 16}};
    k.params = params;
    k.inputs = [](const Shape& s) { return channelsOf(s) + keysOf(s); };
    k.outputs = channelsOf;
    k.cost = [](const Shape& s, double) { return Cost{16 + 2.0 * channelsOf(s) + keysOf(s), 128}; };
    k.kernel = perChannelKernel<DuckerKernel>();
    k.portName = [](const Shape& s, bool input, int port) {
        const int sound = channelsOf(s);
        return input && port >= sound ? "priority " + std::to_string(port - sound + 1) : std::to_string(port + 1);
    };
    k.readouts = {{"gain", "Gain", "dB", -40, 0}};
    k.glyph = Glyph::number;
    k.glyphParam = "depth";
    k.neutral = [](const Values& v) { return v[duckDepth] == 0; };
    return k;
}

} // namespace loom::engine::ducker_block
