// Matrix mixer: every input at its own level into every output.
#include "dsp/lane_level.h"
#include "engine/blocks/common.h"

namespace loom::engine::matrix_block {
namespace {

std::string crossingId(int in, int out) { // from 0
    return std::to_string(in + 1) + "." + std::to_string(out + 1);
}

// Where its parameters lie: levels, mutes of crossings, of inputs, of outputs.
struct MatrixTable {
    int ins, outs;
    Param level(int in, int out) const { return {in * outs + out}; }
    Param mute(int in, int out) const { return {ins * outs + in * outs + out}; }
    Param inputMute(int in) const { return {2 * ins * outs + in}; }
    Param outputMute(int out) const { return {2 * ins * outs + ins + out}; }
};

class MatrixKernel final : public Kernel {
  public:
    MatrixKernel(const ParamTable& t, const std::vector<double>& v, double rate, int ins, int outs)
        : Kernel(t, v, rate), ins_(ins), outs_(outs), outLanes_((outs + laneCount - 1) / laneCount * laneCount),
          gains_(static_cast<std::size_t>(ins) * static_cast<std::size_t>(outLanes_)), slopes_(gains_.size()) {
        prepare(maxFrame);
    }

  private:
    // The crossing's level, unless it, its input or its output is muted.
    template <double (GlideBank::*at)(int) const> double gain(int i, int o) const {
        const MatrixTable table{ins_, outs_};
        return (params_.*at)(table.level(i, o)) * (1 - (params_.*at)(table.mute(i, o))) *
               (1 - (params_.*at)(table.inputMute(i))) * (1 - (params_.*at)(table.outputMute(o)));
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
    const auto say = [](int i, int o) { return std::to_string(i + 1) + " into " + std::to_string(o + 1); };
    const auto mute = [&p](const std::string& id, const std::string& label) {
        p.push_back(gliding(onOffParam(id, label + " muted", false)));
    };
    for (int i = 0; i < ins; ++i)
        for (int o = 0; o < outs; ++o)
            p.push_back(levelParam(crossingId(i, o), say(i, o), -80, 12, -80, true));
    for (int i = 0; i < ins; ++i)
        for (int o = 0; o < outs; ++o)
            mute(crossingId(i, o) + ".mute", say(i, o));
    for (int i = 1; i <= ins; ++i)
        mute("in." + std::to_string(i) + ".mute", "Input " + std::to_string(i));
    for (int o = 1; o <= outs; ++o)
        mute("out." + std::to_string(o) + ".mute", "Output " + std::to_string(o));
    return p;
}

} // namespace

BlockKind declare() {
    BlockKind k;
    k.id = "matrix";
    k.label = "Matrix mixer";
    k.group = Group::routing;
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
        const MatrixTable at{v.shape("inputs"), v.shape("outputs")};
        const double level = v[at.level(in, out)];
        const bool silent =
            level <= -80 || v[at.mute(in, out)] >= 0.5 || v[at.inputMute(in)] >= 0.5 || v[at.outputMute(out)] >= 0.5;
        return silent ? 0.0 : dsp::gainFromDb(level);
    };
    k.crosses = true;
    k.glyph = Glyph::weave;
    return k;
}

} // namespace loom::engine::matrix_block
