// Level meter: sound goes through untouched; its level is shown on the bead as on every thread.
#include "engine/blocks/common.h"
#include <algorithm>

namespace loom::engine {
namespace {

class MeterKernel final : public Kernel {
  public:
    using Kernel::Kernel;

  private:
    void process(Inputs in, Outputs out, int frames) noexcept override {
        for (std::size_t c = 0; c < out.size(); ++c)
            std::copy_n(in[c], frames, out[c]);
    }
};

} // namespace

BlockKind declare_meter() {
    BlockKind k;
    k.id = "meter", k.label = "Level meter", k.group = Group::eyes;
    k.purpose = "Shows peak and RMS level at its place, and passes the sound on untouched.";
    k.shape = {channelsSpec()};
    k.params = [](const Shape&) { return std::vector<ParamSpec>{}; };
    k.inputs = k.outputs = channelsOf;
    k.cost = [](const Shape& s, double) { return Cost{0.5 * channelsOf(s), 32}; };
    k.kernel = [](const KernelSetup& s, const ParamTable& t, const std::vector<double>& v) -> std::unique_ptr<Kernel> {
        return std::make_unique<MeterKernel>(t, v, s.rate);
    };
    k.response = perChannel([](const Values&, double, double) { return dsp::Complex(1); });
    k.glyph = Glyph::meter;
    k.flat = [](const Values&) { return true; };
    return k;
}

} // namespace loom::engine
