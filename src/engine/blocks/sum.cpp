// Sum: all inputs into one thread.
#include "engine/blocks/common.h"
#include <algorithm>

namespace loom::engine::sum_block {
namespace {

ParamSet params;
const Param sumGain = params.add(levelParam("gain", "Level", -80, 12, 0, true));

class SumKernel final : public Kernel {
  public:
    using Kernel::Kernel;

  private:
    void process(Inputs in, Outputs out, int frames) noexcept override {
        float sum[maxFrame]{};
        for (const float* x : in)
            for (int i = 0; i < frames; ++i)
                sum[i] += x[i];
        applyGain(sum, out[0], params_.before(sumGain), params_.now(sumGain), frames);
    }
};

} // namespace

BlockKind declare() {
    BlockKind k;
    k.id = "sum";
    k.label = "Sum";
    k.group = Group::routing;
    k.purpose = "Adds its inputs into one thread, at one level.";
    k.shape = {{"inputs", "Inputs", 2, 1, 64}};
    k.params = params;
    k.inputs = [](const Shape& s) { return s.at("inputs"); };
    k.outputs = [](const Shape&) { return 1; };
    k.cost = [](const Shape& s, double) { return Cost{1.8 + 0.2 * s.at("inputs"), 64}; };
    k.kernel = plainKernel<SumKernel>();
    k.response = [](const Values& v, int, int, double, double) -> dsp::Complex {
        return v[sumGain] <= -80 ? 0.0 : dsp::gainFromDb(v[sumGain]);
    };
    k.glyph = Glyph::number;
    k.glyphParam = "gain";
    return k;
}

} // namespace loom::engine::sum_block
