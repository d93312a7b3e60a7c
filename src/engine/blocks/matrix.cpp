// Matrix mixer: every input at its own level into every output.
#include "engine/blocks/common.h"
#include <algorithm>

namespace loom::engine {
namespace {

class MatrixKernel final : public Kernel {
  public:
    MatrixKernel(const ParamTable& t, const std::vector<double>& v, double rate, int ins, int outs)
        : Kernel(t, v, rate), ins_(ins), outs_(outs) {}

  private:
    void process(Inputs in, Outputs out, int frames) noexcept override {
        for (int o = 0; o < outs_; ++o) {
            std::fill_n(out[o], frames, 0.0f);
            for (int i = 0; i < ins_; ++i)
                add(in[i], out[o], params_.before(i * outs_ + o), params_.now(i * outs_ + o), frames);
        }
    }
    static void add(const float* in, float* out, double from, double to, int frames) {
        if (from == 0 && to == 0)
            return;
        const auto g = static_cast<float>(from), step = static_cast<float>((to - from) / frames);
        for (int i = 0; i < frames; ++i)
            out[i] += in[i] * (g + step * static_cast<float>(i + 1));
    }
    int ins_, outs_;
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
    k.response = [](const Values& v, int in, int out, double, double) -> dsp::Complex {
        const double level = v[std::to_string(in + 1) + "." + std::to_string(out + 1)];
        return level <= -80 ? 0.0 : dsp::gainFromDb(level);
    };
    k.glyph = Glyph::weave;
    k.flat = [](const Values&) { return false; };
    return k;
}

} // namespace loom::engine
