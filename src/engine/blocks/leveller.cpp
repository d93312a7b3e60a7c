// Leveller: brings speech of any strength to one loudness, and leaves pauses alone.
#include "dsp/loudness.h"
#include "engine/blocks/dynamics.h"

namespace loom::engine::leveller_block {
namespace {

ParamSet params;
const Param lvlOn = params.add(onOffParam("on", "On", true));
const Param lvlTarget = params.add(glidingLevel("target", "Target loudness", -50, -6, -23));
const Param lvlMost = params.add(glidingLevel("most", "Most gain", 0, 30, 12));
const Param lvlLeast = params.add(glidingLevel("least", "Most reduction", 0, 30, 12));
const Param lvlGate = params.add(glidingLevel("gate", "Pause below", -70, -20, -45));
const Param lvlSpeed = params.add({"speed", "Speed (dB a second)", Unit::none, 0.5, 30, 4, 0.5});

class LevellerKernel final : public Kernel {
  public:
    LevellerKernel(const ParamTable& t, const std::vector<double>& v, double rate, int channels)
        : Kernel(t, v, rate), meters_(static_cast<std::size_t>(channels), dsp::KWeighting(rate)) {}
    float readout(int) const noexcept override { return shown_.load(std::memory_order_relaxed); }

  private:
    void process(Inputs in, Outputs out, int frames) noexcept override {
        double power = 0;
        for (std::size_t c = 0; c < meters_.size(); ++c)
            power += meters_[c].power(in[c], frames);
        const double perSecond = rate_ / frames;
        mean_ += dsp::onePole(0.4, perSecond) * (power - mean_); // 400 ms, as BS.1770 takes momentary loudness
        fast_ += dsp::onePole(0.05, perSecond) * (power - fast_);
        const double loudness = dsp::loudnessFromPower(mean_), now = dsp::loudnessFromPower(fast_);
        if (now > params_.now(lvlGate) && now > loudness - 8) { // in pauses, and as sound dies away, the gain stands
            const double want =
                std::clamp(params_.now(lvlTarget) - loudness, -params_.now(lvlLeast), params_.now(lvlMost));
            const double most = params_.target(lvlSpeed) / perSecond;
            gainDb_ += std::clamp(want - gainDb_, -2 * most, most); // down twice as fast as up
        }
        const double from = gain_;
        gain_ = dsp::gainFromDb(gainDb_);
        for (std::size_t c = 0; c < meters_.size(); ++c)
            applyGain(in[c], out[c], from, gain_, frames);
        shown_.store(static_cast<float>(gainDb_), std::memory_order_relaxed);
    }
    std::vector<dsp::KWeighting> meters_;
    double mean_ = 0, fast_ = 0, gainDb_ = 0, gain_ = 1;
    std::atomic<float> shown_{0};
};

} // namespace

BlockKind declare() {
    BlockKind k;
    k.id = "leveller";
    k.label = "Leveller";
    k.group = Group::dynamics;
    k.purpose = "Brings quiet and loud talkers to one loudness, slowly; holds its gain in pauses.";
    k.shape = {channelsSpec(8)};
    k.params = params;
    k.inputs = k.outputs = channelsOf;
    k.cost = [](const Shape& s, double) { return Cost{10.0 * channelsOf(s), 128.0 * channelsOf(s)}; };
    k.kernel = perChannelKernel<LevellerKernel>();
    k.readouts = {{"gain", "Gain", "dB", -30, 30}};
    k.glyph = Glyph::number;
    k.glyphParam = "target";
    return k;
}

} // namespace loom::engine::leveller_block
