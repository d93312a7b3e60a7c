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
    void prepare(int frames) noexcept override {
        moving_ = params_.moving();
        for (int i = 0; i < ins_; ++i)
            for (int o = 0; o < outs_; ++o) {
                const int p = i * outs_ + o;
                const auto at = static_cast<std::size_t>(i * outLanes_ + o);
                gains_[at] = static_cast<float>(params_.before(p));
                slopes_[at] = static_cast<float>((params_.now(p) - params_.before(p)) / frames);
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

} // namespace

BlockKind declare_matrix() {
    BlockKind k;
    k.id = "matrix", k.label = "Matrix mixer", k.group = Group::routing;
    k.purpose = "Mixes any inputs into any outputs, each crossing at its own level.";
    k.shape = {{"inputs", "Inputs", 8, 1, 128}, {"outputs", "Outputs", 8, 1, 128}};
    k.params = [](const Shape& s) {
        std::vector<ParamSpec> p;
        for (int i = 1; i <= s.at("inputs"); ++i)
            for (int o = 1; o <= s.at("outputs"); ++o)
                p.push_back(levelParam(std::to_string(i) + "." + std::to_string(o),
                                       std::to_string(i) + " into " + std::to_string(o), -80, 12, -80, true));
        return p;
    };
    k.inputs = [](const Shape& s) { return s.at("inputs"); };
    k.outputs = [](const Shape& s) { return s.at("outputs"); };
    k.cost = [](const Shape& s, double) {
        const double crossings = static_cast<double>(s.at("inputs")) * s.at("outputs");
        return Cost{0.35 * crossings, 32 * crossings};
    };
    k.kernel = [](const KernelSetup& s, const ParamTable& t, const std::vector<double>& v) -> std::unique_ptr<Kernel> {
        return std::make_unique<MatrixKernel>(t, v, s.rate, s.shape.at("inputs"), s.shape.at("outputs"));
    };
    k.flow = Flow::wide;
    k.response = [](const Values& v, int in, int out, double, double) -> dsp::Complex {
        const double level = v[std::to_string(in + 1) + "." + std::to_string(out + 1)];
        return level <= -80 ? 0.0 : dsp::gainFromDb(level);
    };
    k.glyph = Glyph::weave;
    k.flat = [](const Values&) { return false; };
    return k;
}

} // namespace loom::engine
