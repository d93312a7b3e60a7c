// Stereo balance.
#include "engine/blocks/common.h"
#include <algorithm>

namespace loom::engine::balance_block {
namespace {

ParamSet params;
const Param balanceAt = params.add(
    {"balance", "Balance (left \u2212100, right 100)", Unit::none, -100, 100, 0, 1, Taper::linear, Glide::linear});

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
                      sideGain(params_.before(balanceAt), side), sideGain(params_.now(balanceAt), side), frames);
    }
};

} // namespace

BlockKind declare() {
    BlockKind k;
    k.id = "balance";
    k.label = "Stereo balance";
    k.group = Group::level;
    k.purpose = "Moves a stereo pair to the left or right by turning the other side down.";
    k.params = params;
    k.inputs = k.outputs = [](const Shape&) { return 2; };
    k.cost = [](const Shape&, double) { return Cost{4.4, 64}; };
    k.kernel = plainKernel<BalanceKernel>();
    k.response = [](const Values& v, int in, int out, double, double) -> dsp::Complex {
        return in == out ? sideGain(v[balanceAt], in) : 0.0;
    };
    k.glyph = Glyph::number;
    k.glyphParam = "balance";
    k.neutral = [](const Values& v) { return v[balanceAt] == 0; };
    return k;
}

} // namespace loom::engine::balance_block
