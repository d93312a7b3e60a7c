// Ambient level: raises announcements and music with the noise in the room.
#include "engine/blocks/dynamics.h"

namespace loom::engine::ambient_block {
namespace {

ParamSet params;
const Param ambOn = params.add(onOffParam("on", "On", true));
const Param ambQuiet = params.add(glidingLevel("quiet", "Noise of the quiet room", -90, 0, -60));
const Param ambRatio =
    params.add({"ratio", "Gain a dB of noise", Unit::none, 0.1, 2, 0.6, 0.1, Taper::linear, Glide::linear});
const Param ambMost = params.add(glidingLevel("most", "Most gain", 0, 24, 10));
const Param ambGap = params.add(glidingLevel("gap", "Programme is silent below", -90, -20, -60));
const Param ambSpeed = params.add({"speed", "Speed (dB a second)", Unit::none, 0.1, 10, 1, 0.1});

// The last input is a microphone in the room. It also hears the programme; so it is only believed while the programme
// itself is silent (gap detection), and its level is what the noise was then.
class AmbientKernel final : public Kernel {
  public:
    AmbientKernel(const ParamTable& t, const std::vector<double>& v, double rate, int channels)
        : Kernel(t, v, rate), channels_(static_cast<std::size_t>(channels)) {}
    float readout(int which) const noexcept override {
        return (which == 0 ? shownGain_ : shownNoise_).load(std::memory_order_relaxed);
    }

  private:
    static double power(const float* x, int frames) {
        double sum = 0;
        for (int i = 0; i < frames; ++i)
            sum += static_cast<double>(x[i]) * x[i];
        return std::isfinite(sum) ? sum / frames : 0;
    }
    void process(Inputs in, Outputs out, int frames) noexcept override {
        const double perSecond = rate_ / frames;
        double programme = 0;
        for (std::size_t c = 0; c < channels_; ++c)
            programme = std::max(programme, power(in[c], frames));
        // Silent for 300 ms: the room has rung out.
        silence_ = dsp::dbFromPower(programme) < params_.now(ambGap) ? silence_ + 1 / perSecond : 0;
        if (silence_ > 0.3)
            noise_ += dsp::onePole(1.0, perSecond) * (power(in[channels_], frames) - noise_);
        const double over = std::max(0.0, dsp::dbFromPower(noise_) - params_.now(ambQuiet));
        const double want = std::min(over * params_.now(ambRatio), params_.now(ambMost));
        const double most = params_.target(ambSpeed) / perSecond;
        gainDb_ += std::clamp(want - gainDb_, -most, most);
        const double from = gain_;
        gain_ = dsp::gainFromDb(gainDb_);
        for (std::size_t c = 0; c < channels_; ++c)
            applyGain(in[c], out[c], from, gain_, frames);
        shownGain_.store(static_cast<float>(gainDb_), std::memory_order_relaxed);
        shownNoise_.store(static_cast<float>(dsp::dbFromPower(noise_)), std::memory_order_relaxed);
    }
    std::size_t channels_;
    double silence_ = 0, noise_ = 0, gainDb_ = 0, gain_ = 1;
    std::atomic<float> shownGain_{0}, shownNoise_{-120};
};

} // namespace

BlockKind declare() {
    BlockKind k;
    k.id = "ambient";
    k.label = "Ambient level";
    k.group = Group::dynamics;
    k.purpose =
        "Raises its sound with the noise in the room; its last input is a microphone there, believed in pauses.";
    k.shape = {channelsSpec(8)};
    k.params = params;
    k.inputs = [](const Shape& s) { return channelsOf(s) + 1; };
    k.outputs = channelsOf;
    k.cost = [](const Shape& s, double) { return Cost{2 + 3.4 * channelsOf(s), 128}; };
    k.kernel = perChannelKernel<AmbientKernel>();
    k.portName = [](const Shape& s, bool input, int port) {
        return input && port == channelsOf(s) ? std::string("microphone") : std::to_string(port + 1);
    };
    k.readouts = {{"gain", "Gain", "dB", -30, 30}, {"noise", "Noise", "dB", -80, 0}};
    k.glyph = Glyph::number;
    k.glyphParam = "most";
    k.neutral = [](const Values& v) { return v[ambMost] == 0; };
    return k;
}

} // namespace loom::engine::ambient_block
