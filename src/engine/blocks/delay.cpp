// Delay: aligns loudspeakers with each other and with the talker.
#include "dsp/fractional_delay.h"
#include "engine/blocks/common.h"

namespace loom::engine {
namespace {

// Memory is taken for the longest delay, whatever is set.
double longestMs(const Shape& s) {
    return 1000.0 * countOf(s, "seconds");
}
enum { delayOn, delayTime };

class DelayKernel final : public Kernel {
  public:
    DelayKernel(const ParamTable& t, const std::vector<double>& v, double rate, int channels, double longest)
        : Kernel(t, v, rate), time_(v[delayTime]), now_(design(time_)), lines_(static_cast<std::size_t>(channels)) {
        for (auto& l : lines_)
            l.prepare(static_cast<int>(longest / 1000 * rate) + 2 * dsp::delayTaps);
    }
    // Takes a frame in and gives where it lies delayed: in the line itself, or worked out into `made`.
    const float* runLane(int channel, const float* in, float* made, int frames) noexcept {
        auto& line = lines_[static_cast<std::size_t>(channel)];
        line.write(in, frames);
        const float* fresh = line.read(now_, made, frames);
        if (left_ == 0)
            return fresh;
        float stale[maxFrame];
        const float* old = line.read(old_, stale, frames);
        for (int i = 0; i < frames; ++i) {
            const double keep = 0.5 - 0.5 * std::cos(dsp::pi * std::max(left_ - i, 0) / fadeSamples);
            made[i] = static_cast<float>(fresh[i] + keep * (old[i] - fresh[i]));
        }
        return made;
    }

  private:
    static constexpr int fadeSamples = 2048;
    dsp::DelayDesign design(double ms) const { return dsp::designDelay(ms / 1000 * rate_); }

    // left_ is what a cross-fade still has to go at the start of this frame.
    void prepare(int frames) noexcept override {
        left_ = std::max(0, left_ - last_);
        last_ = frames;
        if (left_ == 0 && params_.target(delayTime) != time_) {
            time_ = params_.target(delayTime);
            old_ = now_, now_ = design(time_), left_ = fadeSamples;
        }
        awake_ = left_ > 0;
    }

    double time_;
    dsp::DelayDesign now_, old_;
    int left_ = 0, last_ = 0;
    std::vector<dsp::DelayLine> lines_;
};

class DelayGang final : public Gang {
  public:
    void assign(const std::array<GangLane, laneCount>& lanes) override { lanes_ = lanes; }
    void process(const float* in, float* out, int frames) noexcept override {
        float apart[laneCount][maxFrame], made[laneCount][maxFrame];
        float* to[laneCount];
        dsp::Place from[laneCount];
        for (std::size_t l = 0; l < laneCount; ++l)
            to[l] = lanes_[l].kernel ? apart[l] : nullptr;
        dsp::scatter(in, to, frames);
        for (std::size_t l = 0; l < laneCount; ++l)
            if (lanes_[l].kernel)
                from[l].at = const_cast<float*>(
                    static_cast<DelayKernel*>(lanes_[l].kernel)->runLane(lanes_[l].channel, apart[l], made[l], frames));
        dsp::gather(from, out, frames);
    }

  private:
    std::array<GangLane, laneCount> lanes_{};
};

} // namespace

BlockKind declare_delay() {
    BlockKind k;
    k.id = "delay", k.label = "Delay", k.group = Group::delay;
    k.purpose = "Holds sound back: takes milliseconds, metres or feet (at 20 \u00b0C).";
    k.shape = {channelsSpec(), {"seconds", "Longest delay (s)", 1, 1, 5}};
    k.params = [](const Shape& s) -> std::vector<ParamSpec> {
        return {onOffParam("on", "On", true),
                {"time", "Time", Unit::milliseconds, 0, longestMs(s), 0, 0.1, Taper::linear, Glide::none}};
    };
    k.inputs = k.outputs = channelsOf;
    k.cost = [](const Shape& s, double rate) {
        return Cost{1.9 * channelsOf(s), longestMs(s) / 1000 * rate * sizeof(float) * channelsOf(s)};
    };
    k.kernel = [](const KernelSetup& s, const ParamTable& t, const std::vector<double>& v) -> std::unique_ptr<Kernel> {
        return std::make_unique<DelayKernel>(t, v, s.rate, channelsOf(s.shape), longestMs(s.shape));
    };
    k.flow = Flow::ganged, k.family = "delay";
    k.gang = [] { return std::make_unique<DelayGang>(); };
    k.response = perChannel([](const Values& v, double hz, double rate) {
        return dsp::response(dsp::designDelay(v["time"] / 1000 * rate), hz, rate);
    });
    k.glyph = Glyph::number, k.glyphParam = "time";
    k.flat = [](const Values& v) { return v["time"] == 0; };
    return k;
}

} // namespace loom::engine
