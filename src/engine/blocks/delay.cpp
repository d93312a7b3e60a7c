// Delay: aligns loudspeakers with each other and with the talker.
#include "dsp/fractional_delay.h"
#include "engine/blocks/common.h"

namespace loom::engine {
namespace {

constexpr double maxDelayMs = 1000;
enum { delayOn, delayTime };

class DelayKernel final : public Kernel {
  public:
    DelayKernel(const ParamTable& t, const std::vector<double>& v, double rate, int channels)
        : Kernel(t, v, rate), time_(v[delayTime]), now_(design(time_)), lines_(channels) {
        for (auto& l : lines_)
            l.prepare(static_cast<int>(maxDelayMs / 1000 * rate) + 2 * dsp::delayTaps);
    }

  private:
    static constexpr int fadeSamples = 2048;
    dsp::DelayDesign design(double ms) const { return dsp::designDelay(ms / 1000 * rate_); }

    void process(Inputs in, Outputs out, int frames) noexcept override {
        if (fade_ == 0 && params_.target(delayTime) != time_) {
            time_ = params_.target(delayTime);
            old_ = now_, now_ = design(time_), fade_ = fadeSamples;
        }
        for (std::size_t c = 0; c < lines_.size(); ++c)
            fade_ > 0 ? fading(lines_[c], in[c], out[c], frames) : steady(lines_[c], in[c], out[c], frames);
        fade_ = std::max(0, fade_ - frames);
    }
    void steady(dsp::DelayLine& line, const float* in, float* out, int frames) const {
        for (int i = 0; i < frames; ++i) {
            line.push(in[i]);
            out[i] = line.read(now_);
        }
    }
    void fading(dsp::DelayLine& line, const float* in, float* out, int frames) const {
        for (int i = 0; i < frames; ++i) {
            line.push(in[i]);
            const double keep = 0.5 - 0.5 * std::cos(dsp::pi * std::max(fade_ - i, 0) / fadeSamples);
            const float fresh = line.read(now_);
            out[i] = static_cast<float>(fresh + keep * (line.read(old_) - fresh));
        }
    }

    double time_;
    dsp::DelayDesign now_, old_;
    int fade_ = 0;
    std::vector<dsp::DelayLine> lines_;
};

} // namespace

BlockKind declare_delay() {
    BlockKind k;
    k.id = "delay", k.label = "Delay", k.group = Group::delay;
    k.purpose = "Holds sound back: takes milliseconds, metres or feet (at 20 \u00b0C).";
    k.shape = {channelsSpec()};
    k.params = [](const Shape&) -> std::vector<ParamSpec> {
        return {onOffParam("on", "On", true),
                {"time", "Time", Unit::milliseconds, 0, maxDelayMs, 0, 0.1, Taper::linear, Glide::none}};
    };
    k.inputs = k.outputs = channelsOf;
    k.cost = [](const Shape& s, double rate) {
        return Cost{14.0 * channelsOf(s), maxDelayMs / 1000 * rate * sizeof(float) * channelsOf(s)};
    };
    k.kernel = [](const KernelSetup& s, const ParamTable& t, const std::vector<double>& v) -> std::unique_ptr<Kernel> {
        return std::make_unique<DelayKernel>(t, v, s.rate, channelsOf(s.shape));
    };
    k.response = perChannel([](const Values& v, double hz, double rate) {
        return dsp::response(dsp::designDelay(v["time"] / 1000 * rate), hz, rate);
    });
    k.glyph = Glyph::number, k.glyphParam = "time";
    k.flat = [](const Values& v) { return v["time"] == 0; };
    return k;
}

} // namespace loom::engine
