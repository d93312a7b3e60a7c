// Stereo balance.
#include "engine/blocks/common.h"
#include <algorithm>

namespace loom::engine {
namespace {

// At the middle both sides pass unchanged; towards one side the other fades to silence.
double sideGain(double balance, int side) {
    return std::clamp(side == 0 ? 1 - balance / 100 : 1 + balance / 100, 0.0, 1.0);
}

class BalanceKernel final : public Kernel {
  public:
    using Kernel::Kernel;

  private:
    void process(Inputs in, Outputs out, int frames) noexcept override {
        for (int side = 0; side < 2; ++side)
            applyGain(in[static_cast<std::size_t>(side)], out[static_cast<std::size_t>(side)],
                      sideGain(params_.before(0), side), sideGain(params_.now(0), side), frames);
    }
};

} // namespace

BlockKind declare_balance() {
    BlockKind k;
    k.id = "balance", k.label = "Stereo balance", k.group = Group::level;
    k.purpose = "Moves a stereo pair to the left or right by turning the other side down.";
    k.params = [](const Shape&) -> std::vector<ParamSpec> {
        return {{"balance", "Balance (left \u2212100, right 100)", Unit::none, -100, 100, 0, 1, Taper::linear,
                 Glide::linear}};
    };
    k.inputs = k.outputs = [](const Shape&) { return 2; };
    k.cost = [](const Shape&, double) { return Cost{4.4, 64}; };
    k.kernel = [](const KernelSetup& s, const ParamTable& t, const std::vector<double>& v) -> std::unique_ptr<Kernel> {
        return std::make_unique<BalanceKernel>(t, v, s.rate);
    };
    k.response = [](const Values& v, int in, int out, double, double) -> dsp::Complex {
        return in == out ? sideGain(v["balance"], in) : 0.0;
    };
    k.glyph = Glyph::number, k.glyphParam = "balance";
    k.flat = [](const Values& v) { return v["balance"] == 0; };
    return k;
}

} // namespace loom::engine
