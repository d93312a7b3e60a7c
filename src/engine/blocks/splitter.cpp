// Splitter: one thread becomes several lanes, each with a level of its own.
#include "engine/blocks/common.h"

namespace loom::engine {
namespace {

class SplitterKernel final : public Kernel {
  public:
    using Kernel::Kernel;

  private:
    void process(Inputs in, Outputs out, int frames) noexcept override {
        for (std::size_t o = 0; o < out.size(); ++o)
            applyGain(in[0], out[o], params_.before(static_cast<int>(o)), params_.now(static_cast<int>(o)), frames);
    }
};

} // namespace

BlockKind declare_splitter() {
    BlockKind k;
    k.id = "splitter", k.label = "Splitter", k.group = Group::routing;
    k.purpose = "Makes several lanes of one thread, each at its own level.";
    k.shape = {{"outputs", "Outputs", 2, 1, 64}};
    k.params = [](const Shape& s) {
        std::vector<ParamSpec> p;
        for (int o = 1; o <= s.at("outputs"); ++o)
            p.push_back(levelParam(std::to_string(o), "Lane " + std::to_string(o), -80, 12, 0, true));
        return p;
    };
    k.inputs = [](const Shape&) { return 1; };
    k.outputs = [](const Shape& s) { return s.at("outputs"); };
    k.cost = [](const Shape& s, double) { return Cost{2 + 0.2 * s.at("outputs"), 64}; };
    k.kernel = [](const KernelSetup& s, const ParamTable& t, const std::vector<double>& v) -> std::unique_ptr<Kernel> {
        return std::make_unique<SplitterKernel>(t, v, s.rate);
    };
    k.response = [](const Values& v, int, int out, double, double) -> dsp::Complex {
        const double level = v[std::to_string(out + 1)];
        return level <= -80 ? 0.0 : dsp::gainFromDb(level);
    };
    k.glyph = Glyph::weave;
    k.flat = [](const Values&) { return false; };
    return k;
}

} // namespace loom::engine
