// Tones of a telephone line.
#include "dsp/noise.h"
#include "engine/blocks/common.h"

namespace loom::engine::calltone_block {
namespace {

ParamSet params;
const Param toneKind =
    params.add(choiceParam("tone", "Tone", {"dial", "ringing", "busy", "congestion", "waiting", "chime"}, 1));
const Param toneHz = params.add(frequencyParam("hz", "Frequency", 425, 200, 2000));
const Param toneLevel = params.add(levelParam("level", "Level", -80, 0, -20, true));
const Param toneRun = params.add(gliding(onOffParam("run", "Sounding", false)));

// Seconds of tone and pause, over and over (ITU-T E.180, 3 to 9); an empty pair ends the list.
struct Cadence {
    double on, off;
};
constexpr Cadence cadences[][2] = {
    {{1, 0}, {}},          // dial: continuous
    {{1, 4}, {}},          // ringing, as the caller hears it
    {{0.5, 0.5}, {}},      // busy
    {{0.25, 0.25}, {}},    // congestion
    {{0.2, 0.6}, {0.2, 9}} // call waiting
};
constexpr int chime = 5; // what rings here: two strokes, a major third apart, every three seconds

class CallToneKernel final : public Kernel {
  public:
    using Kernel::Kernel;

  private:
    // Loudness and pitch at a time since the tone began.
    double shape(int kind, double t, double& pitch) const {
        if (kind == chime) {
            const double at = std::fmod(t, 3.0);
            pitch = at < 0.4 ? 1.25 : 1;
            return at < 1.6 ? std::exp(-5 * std::fmod(at, at < 0.4 ? 0.4 : 1e9)) : 0;
        }
        const auto& c = cadences[kind];
        double at = std::fmod(t, c[0].on + c[0].off + c[1].on + c[1].off);
        if (at >= c[0].on + c[0].off)
            return at - c[0].on - c[0].off < c[1].on ? 1 : 0;
        return at < c[0].on ? 1 : 0;
    }
    void process(Inputs, Outputs out, int frames) noexcept override {
        const int kind = static_cast<int>(params_.target(toneKind));
        const double hz = std::exp(params_.now(toneHz));
        const double from = params_.before(toneLevel) * params_.before(toneRun);
        const double step = (params_.now(toneLevel) * params_.now(toneRun) - from) / frames;
        if (params_.target(toneRun) < 0.5 && from == 0)
            time_ = 0;                                          // starting again starts at the beginning
        const double pull = 1 - std::exp(-1 / (0.002 * rate_)); // edges of 2 ms make no click
        for (int i = 0; i < frames; ++i) {
            double pitch = 1;
            size_ += pull * (shape(kind, time_, pitch) - size_);
            time_ += 1 / rate_;
            out[0][i] = static_cast<float>(sine_.step(hz * pitch, rate_) * size_ * (from + step * (i + 1)));
        }
    }
    dsp::Sine sine_;
    double time_ = 0, size_ = 0;
};

} // namespace

BlockKind declare() {
    BlockKind k;
    k.id = "calltone";
    k.label = "Call tones";
    k.group = Group::sources;
    k.purpose =
        "Makes the tones of a call: dial, ringing, busy, congestion and waiting as in ITU-T E.180, or a chime for "
        "a call that comes in.";
    k.params = params;
    k.inputs = noPorts;
    k.outputs = [](const Shape&) { return 1; };
    k.cost = [](const Shape&, double) { return Cost{30, 100}; };
    k.kernel = plainKernel<CallToneKernel>();
    k.glyph = Glyph::wave;
    return k;
}

} // namespace loom::engine::calltone_block
