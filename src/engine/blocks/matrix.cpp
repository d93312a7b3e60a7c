// Matrix mixer: every input at its own level into every output.
#include "dsp/lane_level.h"
#include "engine/blocks/common.h"

namespace loom::engine {
namespace {

class MatrixKernel final : public Kernel {
  public:
    MatrixKernel(const ParamTable& t, const std::vector<double>& v, double rate, int ins, int outs)
        : Kernel(t, v, rate), ins_(ins), outs_(outs), outLanes_((outs + laneCount - 1) / laneCount * laneCount),
          gains_(static_cast<std::size_t>(ins) * static_cast<std::size_t>(outLanes_)), slopes_(gains_.size()) {
        prepare(maxFrame);
    }

  private:
    // The crossing's level, unless it, its input or its output is muted. Parameters lie in the order of matrixParams.
    template <double (GlideBank::*at)(int) const> double gain(int i, int o) const {
        const int crossings = ins_ * outs_, p = i * outs_ + o, line = 2 * crossings + i,
                  column = 2 * crossings + ins_ + o;
        return (params_.*at)(p) * (1 - (params_.*at)(crossings + p)) * (1 - (params_.*at)(line)) *
               (1 - (params_.*at)(column));
    }
    void prepare(int frames) noexcept override {
        moving_ = params_.moving();
        for (int i = 0; i < ins_; ++i)
            for (int o = 0; o < outs_; ++o) {
                const auto at = static_cast<std::size_t>(i * outLanes_ + o);
                const double from = gain<&GlideBank::before>(i, o), to = gain<&GlideBank::now>(i, o);
                gains_[at] = static_cast<float>(from);
                slopes_[at] = static_cast<float>((to - from) / frames);
                moving_ = moving_ || slopes_[at] != 0;
            }
    }
    void processWide(const float* const* in, float* const* out, int frames) noexcept override {
        dsp::mixLanes(in, ins_, out, outLanes_, gains_.data(), moving_ ? slopes_.data() : nullptr, frames);
    }
    int ins_, outs_, outLanes_;
    bool moving_ = false;
    std::vector<float> gains_, slopes_;
};

std::vector<ParamSpec> matrixParams(const Shape& s) {
    const int ins = s.at("inputs"), outs = s.at("outputs");
    std::vector<ParamSpec> p;
    p.reserve(static_cast<std::size_t>(2 * ins * outs + ins + outs));
    const auto number = [](int n) { return std::to_string(n); };
    const auto mute = [&p](const std::string& id, const std::string& label) {
        p.push_back(onOffParam(id, label, false));
        p.back().glide = Glide::linear;
    };
    for (int i = 1; i <= ins; ++i)
        for (int o = 1; o <= outs; ++o)
            p.push_back(levelParam(number(i) + "." + number(o), number(i) + " into " + number(o), -80, 12, -80, true));
    for (int i = 1; i <= ins; ++i)
        for (int o = 1; o <= outs; ++o)
            mute(number(i) + "." + number(o) + ".mute", number(i) + " into " + number(o) + " muted");
    for (int i = 1; i <= ins; ++i)
        mute("in." + number(i) + ".mute", "Input " + number(i) + " muted");
    for (int o = 1; o <= outs; ++o)
        mute("out." + number(o) + ".mute", "Output " + number(o) + " muted");
    return p;
}

} // namespace

BlockKind declare_matrix() {
    BlockKind k;
    k.id = "matrix", k.label = "Matrix mixer", k.group = Group::routing;
    k.purpose = "Mixes any inputs into any outputs, each crossing at its own level; crossings, inputs and outputs can "
                "be muted.";
    k.shape = {{"inputs", "Inputs", 8, 1, 128}, {"outputs", "Outputs", 8, 1, 128}};
    k.params = matrixParams;
    k.inputs = [](const Shape& s) { return s.at("inputs"); };
    k.outputs = [](const Shape& s) { return s.at("outputs"); };
    k.cost = [](const Shape& s, double) {
        const double crossings = static_cast<double>(s.at("inputs")) * s.at("outputs");
        return Cost{3 + 0.1 * crossings, 64 * crossings};
    };
    k.kernel = [](const KernelSetup& s, const ParamTable& t, const std::vector<double>& v) -> std::unique_ptr<Kernel> {
        return std::make_unique<MatrixKernel>(t, v, s.rate, s.shape.at("inputs"), s.shape.at("outputs"));
    };
    k.flow = Flow::wide;
    k.response = [](const Values& v, int in, int out, double, double) -> dsp::Complex {
        const std::string i = std::to_string(in + 1), o = std::to_string(out + 1), crossing = i + "." + o;
        const bool silent = v[crossing] <= -80 || v[crossing + ".mute"] >= 0.5 || v["in." + i + ".mute"] >= 0.5 ||
                            v["out." + o + ".mute"] >= 0.5;
        return silent ? 0.0 : dsp::gainFromDb(v[crossing]);
    };
    k.glyph = Glyph::weave;
    k.flat = [](const Values&) { return false; };
    return k;
}

} // namespace loom::engine
