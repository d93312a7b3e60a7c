// Generator: test signals.
#include "dsp/noise.h"
#include "dsp/test_signals.h"
#include "engine/blocks/common.h"

namespace loom::engine::generator_block {
namespace {

ParamSet params;
const Param genSignal =
    params.add(choiceParam("signal", "Signal", {"sine", "pink noise", "white noise", "sweep", "STI speech noise"}));
const Param genHz = params.add(frequencyParam("hz", "Frequency", 1000));
const Param genLevel = params.add(levelParam("level", "Level", -80, 0, -20, true));
const Param genRun = params.add(gliding(onOffParam("run", "Sounding", true)));
const Param genSeconds = params.add(secondsParam("seconds", "Length of a sweep", 0.5, 60, 5));
enum { sineSignal, pinkSignal, whiteSignal, sweepSignal, speechSignal };

class GeneratorKernel final : public Kernel {
  public:
    GeneratorKernel(const ParamTable& t, const std::vector<double>& v, double rate)
        : Kernel(t, v, rate), sweep_(20, 20000, rate), speech_(rate) {}

  private:
    double next(int signal, double hz) {
        switch (signal) {
        case sineSignal:
            return sine_.step(hz, rate_);
        case pinkSignal:
            return pink_.step();
        case whiteSignal:
            return white_.step();
        case sweepSignal:
            return sweep_.step(params_.target(genSeconds));
        default:
            return speech_.step();
        }
    }
    void process(Inputs, Outputs out, int frames) noexcept override {
        const int signal = static_cast<int>(params_.target(genSignal));
        const double hz = std::exp(params_.now(genHz));
        const double from = params_.before(genLevel) * params_.before(genRun);
        const double step = (params_.now(genLevel) * params_.now(genRun) - from) / frames;
        for (int i = 0; i < frames; ++i) {
            out[0][i] = static_cast<float>(next(signal, hz) * (from + step * (i + 1)));
        }
    }
    dsp::Sine sine_;
    dsp::PinkNoise pink_;
    dsp::WhiteNoise white_;
    dsp::Sweep sweep_;
    dsp::SpeechNoise speech_;
};

} // namespace

BlockKind declare() {
    BlockKind k;
    k.id = "generator";
    k.label = "Generator";
    k.group = Group::sources;
    k.purpose = "Makes a sine, noise, an exponential sweep from 20 Hz to 20 kHz, or modulated noise to measure speech "
                "transmission.";
    k.params = params;
    k.inputs = noPorts;
    k.outputs = [](const Shape&) { return 1; };
    k.cost = [](const Shape&, double) { return Cost{26, 200}; };
    k.kernel = plainKernel<GeneratorKernel>();
    k.glyph = Glyph::wave;
    return k;
}

} // namespace loom::engine::generator_block
