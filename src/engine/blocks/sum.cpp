// Sum: all inputs into one thread.
#include "engine/blocks/common.h"
#include <algorithm>

namespace loom::engine {
namespace {

class SumKernel final : public Kernel {
  public:
    using Kernel::Kernel;

  private:
    void process(Inputs in, Outputs out, int frames) noexcept override {
        float sum[maxFrame]{};
        for (const float* x : in)
            for (int i = 0; i < frames; ++i)
                sum[i] += x[i];
        applyGain(sum, out[0], params_.before(0), params_.now(0), frames);
    }
};

} // namespace

BlockKind declare_sum() {
    BlockKind k;
    k.id = "sum", k.label = "Sum", k.group = Group::routing;
    k.purpose = "Adds its inputs into one thread, at one level.";
    k.shape = {{"inputs", "Inputs", 2, 1, 64}};
    k.params = [](const Shape&) -> std::vector<ParamSpec> { return {levelParam("gain", "Level", -80, 12, 0, true)}; };
    k.inputs = [](const Shape& s) { return s.at("inputs"); };
    k.outputs = [](const Shape&) { return 1; };
    k.cost = [](const Shape& s, double) { return Cost{1.8 + 0.2 * s.at("inputs"), 64}; };
    k.kernel = [](const KernelSetup& s, const ParamTable& t, const std::vector<double>& v) -> std::unique_ptr<Kernel> {
        return std::make_unique<SumKernel>(t, v, s.rate);
    };
    k.response = [](const Values& v, int, int, double, double) -> dsp::Complex {
        return v["gain"] <= -80 ? 0.0 : dsp::gainFromDb(v["gain"]);
    };
    k.glyph = Glyph::number, k.glyphParam = "gain";
    k.flat = [](const Values&) { return false; };
    return k;
}

} // namespace loom::engine
