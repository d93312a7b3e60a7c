// Generator: test signals.
#include "dsp/noise.h"
#include "engine/blocks/common.h"

namespace loom::engine {
namespace {

enum { genSignal, genHz, genLevel, genRun };

class GeneratorKernel final : public Kernel {
  public:
    using Kernel::Kernel;

  private:
    void process(Inputs, Outputs out, int frames) noexcept override {
        const int signal = static_cast<int>(params_.target(genSignal));
        const double hz = std::exp(params_.now(genHz));
        const double from = params_.before(genLevel) * params_.before(genRun);
        const double step = (params_.now(genLevel) * params_.now(genRun) - from) / frames;
        for (int i = 0; i < frames; ++i) {
            const double x = signal == 0 ? sine_.step(hz, rate_) : signal == 1 ? pink_.step() : white_.step();
            out[0][i] = static_cast<float>(x * (from + step * (i + 1)));
        }
    }
    dsp::Sine sine_;
    dsp::PinkNoise pink_;
    dsp::WhiteNoise white_;
};

} // namespace

BlockKind declare_generator() {
    BlockKind k;
    k.id = "generator", k.label = "Generator", k.group = Group::sources;
    k.purpose = "Makes a sine, pink or white noise. The level is that of the peaks.";
    k.params = [](const Shape&) -> std::vector<ParamSpec> {
        ParamSpec run = onOffParam("run", "Sounding", true);
        run.glide = Glide::linear;
        return {choiceParam("signal", "Signal", {"sine", "pink noise", "white noise"}),
                frequencyParam("hz", "Frequency", 1000), levelParam("level", "Level", -80, 0, -20, true), run};
    };
    k.inputs = noPorts;
    k.outputs = [](const Shape&) { return 1; };
    k.cost = [](const Shape&, double) { return Cost{14, 200}; };
    k.kernel = [](const KernelSetup& s, const ParamTable& t, const std::vector<double>& v) -> std::unique_ptr<Kernel> {
        return std::make_unique<GeneratorKernel>(t, v, s.rate);
    };
    k.glyph = Glyph::wave;
    k.flat = [](const Values&) { return false; };
    return k;
}

} // namespace loom::engine
