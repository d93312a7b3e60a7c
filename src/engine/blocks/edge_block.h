// High-pass and low-pass are one block seen from two sides.
#pragma once
#include "dsp/edge.h"
#include "engine/blocks/cascade_gang.h"

namespace loom::engine {

inline constexpr int edgeOn = 0, edgeCorner = 1, edgeShape = 2, edgeSlope = 3;

inline dsp::EdgeDesign edgeOf(dsp::EdgeSide side, double shape, double slope, double hz, double rate) {
    return dsp::designEdge(static_cast<dsp::EdgeShape>(static_cast<int>(shape)), side, static_cast<int>(slope) + 1,
                           std::min(hz, 0.49 * rate), rate);
}

class EdgeKernel final : public CascadeKernel {
  public:
    EdgeKernel(const ParamTable& t, const std::vector<double>& v, double rate, int channels, dsp::EdgeSide side)
        : CascadeKernel(t, v, rate, channels), side_(side), shape_(v[edgeShape]), slope_(v[edgeSlope]) {
        const auto d = design();
        for (auto& c : cascades_)
            c.jumpTo({d.sections.data(), d.count});
    }

  private:
    dsp::EdgeDesign design() const { return edgeOf(side_, shape_, slope_, std::exp(params_.now(edgeCorner)), rate_); }
    void prepare(int) noexcept override {
        const bool other = params_.target(edgeShape) != shape_ || params_.target(edgeSlope) != slope_;
        const bool turned = params_.before(edgeCorner) != params_.now(edgeCorner);
        const bool now = other && !cascades_[0].switching();
        awake_ = other && !now; // while a cross-fade runs, the corner still moves on the old kind of edge
        if (now)
            shape_ = params_.target(edgeShape), slope_ = params_.target(edgeSlope);
        if (!now && !turned)
            return;
        const auto d = design();
        for (auto& c : cascades_)
            now ? c.switchTo({d.sections.data(), d.count}) : c.glideTo({d.sections.data(), d.count});
    }
    dsp::EdgeSide side_;
    double shape_, slope_;
};

inline void declareEdge(BlockKind& k, dsp::EdgeSide side, double corner) {
    k.group = Group::filters;
    declareCascade(k);
    k.shape = {channelsSpec()};
    k.params = [corner](const Shape&) -> std::vector<ParamSpec> {
        return {onOffParam("on", "On", true), frequencyParam("corner", "Corner", corner),
                edgeShapeParam("shape", "Shape", "slope"),
                choiceParam("slope", "Slope",
                            {"6 dB/oct", "12 dB/oct", "18 dB/oct", "24 dB/oct", "30 dB/oct", "36 dB/oct", "42 dB/oct",
                             "48 dB/oct"},
                            1)};
    };
    k.inputs = k.outputs = channelsOf;
    k.cost = [](const Shape& s, double) { return Cost{0.85 * channelsOf(s), 300.0 * channelsOf(s)}; };
    k.kernel = [side](const KernelSetup& s, const ParamTable& t,
                      const std::vector<double>& v) -> std::unique_ptr<Kernel> {
        return std::make_unique<EdgeKernel>(t, v, s.rate, channelsOf(s.shape), side);
    };
    k.response = perChannel([side](const Values& v, double hz, double rate) {
        return dsp::response(edgeOf(side, v["shape"], v["slope"], v["corner"], rate), hz, rate);
    });
    k.glyph = Glyph::curve, k.picture = Picture::curve;
    k.flat = [](const Values&) { return false; };
}

} // namespace loom::engine
