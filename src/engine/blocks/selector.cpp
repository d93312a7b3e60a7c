// Selector: each output takes one of the inputs, or none; changes are cross-faded.
#include "dsp/lane_level.h"
#include "engine/blocks/common.h"

namespace loom::engine::selector_block {
namespace {

Param sourceOf(int output) { // the first parameters, one an output
    return {output};
}

class SelectorKernel final : public Kernel {
  public:
    SelectorKernel(const ParamTable& t, const std::vector<double>& v, double rate, int ins, int outs)
        : Kernel(t, v, rate), ins_(ins), outs_(outs), outLanes_((outs + laneCount - 1) / laneCount * laneCount),
          gains_(static_cast<std::size_t>(ins) * static_cast<std::size_t>(outLanes_)), goals_(gains_.size()),
          slopes_(gains_.size()) {
        aim();
        gains_ = goals_;
    }

  private:
    std::size_t at(int in, int out) const { return static_cast<std::size_t>(in * outLanes_ + out); }
    void aim() {
        std::fill(goals_.begin(), goals_.end(), 0.0f);
        for (int o = 0; o < outs_; ++o)
            if (const int in = static_cast<int>(params_.target(sourceOf(o))) - 1; in >= 0 && in < ins_)
                goals_[at(in, o)] = 1;
    }
    void prepare(int frames) noexcept override {
        aim();
        // 20 ms from one to the other, in a straight line, so that the sum of the two gains stays 1.
        const float most = static_cast<float>(frames / (0.020 * rate_));
        awake_ = false;
        for (std::size_t i = 0; i < gains_.size(); ++i) {
            gains_[i] += slopes_[i] * static_cast<float>(last_);
            if (std::abs(goals_[i] - gains_[i]) < 1e-6f)
                gains_[i] = goals_[i];
            slopes_[i] = std::clamp(goals_[i] - gains_[i], -most, most) / static_cast<float>(frames);
            awake_ = awake_ || slopes_[i] != 0;
        }
        last_ = frames;
        moving_ = awake_;
    }
    void processWide(const float* const* in, float* const* out, int frames) noexcept override {
        dsp::mixLanes(in, ins_, out, outLanes_, gains_.data(), moving_ ? slopes_.data() : nullptr, frames);
    }
    int ins_, outs_, outLanes_, last_ = 0;
    bool moving_ = false;
    std::vector<float> gains_, goals_, slopes_;
};

} // namespace

BlockKind declare() {
    BlockKind k;
    k.id = "selector";
    k.label = "Selector";
    k.group = Group::routing;
    k.purpose = "Each output takes one of the inputs, or none; changing over makes no click.";
    k.shape = {{"inputs", "Inputs", 4, 1, 64}, {"outputs", "Outputs", 1, 1, 64}};
    k.params = [](const Shape& s) {
        std::vector<std::string> names{"none"};
        for (int i = 1; i <= s.at("inputs"); ++i)
            names.push_back("input " + std::to_string(i));
        std::vector<ParamSpec> p;
        for (int o = 1; o <= s.at("outputs"); ++o)
            p.push_back(choiceParam(std::to_string(o), "Output " + std::to_string(o) + " takes", names, 1));
        return p;
    };
    k.inputs = [](const Shape& s) { return s.at("inputs"); };
    k.outputs = [](const Shape& s) { return s.at("outputs"); };
    k.cost = [](const Shape& s, double) {
        return Cost{4 + 0.1 * s.at("inputs") * s.at("outputs"), 12.0 * s.at("inputs") * s.at("outputs")};
    };
    k.kernel = [](const KernelSetup& s, const ParamTable& t, const std::vector<double>& v) -> std::unique_ptr<Kernel> {
        return std::make_unique<SelectorKernel>(t, v, s.rate, s.shape.at("inputs"), s.shape.at("outputs"));
    };
    k.flow = Flow::wide;
    k.response = [](const Values& v, int in, int out, double, double) -> dsp::Complex {
        return static_cast<int>(v[sourceOf(out)]) == in + 1 ? 1.0 : 0.0;
    };
    k.glyph = Glyph::number;
    k.glyphParam = "1";
    return k;
}

} // namespace loom::engine::selector_block
