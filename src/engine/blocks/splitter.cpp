// Splitter: one thread becomes several lanes, each with a level of its own.
#include "engine/blocks/common.h"

namespace loom::engine::splitter_block {
namespace {

ParamRows lanes;
const auto laneLevel =
    lanes.add([](int n) { return levelParam(std::to_string(n), "Lane " + std::to_string(n), -80, 12, 0, true); });
Param levelOf(std::size_t lane) {
    return lanes.at(0, static_cast<int>(lane), laneLevel);
}

class SplitterKernel final : public Kernel {
  public:
    using Kernel::Kernel;

  private:
    void process(Inputs in, Outputs out, int frames) noexcept override {
        for (std::size_t o = 0; o < out.size(); ++o)
            applyGain(in[0], out[o], params_.before(levelOf(o)), params_.now(levelOf(o)), frames);
    }
};

} // namespace

BlockKind declare() {
    BlockKind k;
    k.id = "splitter";
    k.label = "Splitter";
    k.group = Group::routing;
    k.purpose = "Makes several lanes of one thread, each at its own level.";
    k.shape = {{"outputs", "Outputs", 2, 1, 64}};
    k.params = [](const Shape& s) {
        std::vector<ParamSpec> p;
        lanes.append(p, s.at("outputs"));
        return p;
    };
    k.inputs = [](const Shape&) { return 1; };
    k.outputs = [](const Shape& s) { return s.at("outputs"); };
    k.cost = [](const Shape& s, double) { return Cost{2 + 0.2 * s.at("outputs"), 64}; };
    k.kernel = plainKernel<SplitterKernel>();
    k.response = [](const Values& v, int, int out, double, double) -> dsp::Complex {
        const double level = v[levelOf(static_cast<std::size_t>(out))];
        return level <= -80 ? 0.0 : dsp::gainFromDb(level);
    };
    k.glyph = Glyph::weave;
    return k;
}

} // namespace loom::engine::splitter_block
