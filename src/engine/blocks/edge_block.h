// High-pass and low-pass are one block seen from two sides.
#pragma once
#include "dsp/edge.h"
#include "engine/blocks/cascade_gang.h"

namespace loom::engine {

// The handles are the same in every one.
struct EdgeParams {
    ParamSet set;
    Param on = set.add(onOffParam("on", "On", true)), corner = set.add(frequencyParam("corner", "Corner", 1000)),
          shape = set.add(edgeShapeParam("shape", "Shape", "slope")), slope = set.add(slopeParam("slope", "Slope", 1));
};
inline const EdgeParams edge;

inline dsp::EdgeDesign edgeOf(dsp::EdgeSide side, double shape, double slope, double hz, double rate) {
    return dsp::designEdge(static_cast<dsp::EdgeShape>(static_cast<int>(shape)), side, static_cast<int>(slope) + 1,
                           std::min(hz, 0.49 * rate), rate);
}

class EdgeKernel final : public CascadeKernel {
  public:
    EdgeKernel(const ParamTable& t, const std::vector<double>& v, double rate, int channels, dsp::EdgeSide side)
        : CascadeKernel(t, v, rate, channels), side_(side), shape_(v[static_cast<std::size_t>(edge.shape)]),
          slope_(v[static_cast<std::size_t>(edge.slope)]) {
        const auto d = design();
        for (auto& c : cascades_)
            c.jumpTo({d.sections.data(), d.count});
    }

  private:
    dsp::EdgeDesign design() const { return edgeOf(side_, shape_, slope_, std::exp(params_.now(edge.corner)), rate_); }
    void prepare(int) noexcept override {
        const bool other = params_.target(edge.shape) != shape_ || params_.target(edge.slope) != slope_;
        const bool turned = params_.before(edge.corner) != params_.now(edge.corner);
        const bool now = other && !cascades_[0].switching();
        awake_ = other && !now; // while a cross-fade runs, the corner still moves on the old kind of edge
        if (now) {
            shape_ = params_.target(edge.shape);
            slope_ = params_.target(edge.slope);
        }
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
    k.params = [corner](const Shape& s) {
        auto specs = edge.set(s);
        specs[static_cast<std::size_t>(edge.corner)].def = corner;
        return specs;
    };
    k.inputs = k.outputs = channelsOf;
    k.cost = [](const Shape& s, double) { return Cost{0.85 * channelsOf(s), 300.0 * channelsOf(s)}; };
    k.kernel = [side](const KernelSetup& s, const ParamTable& t,
                      const std::vector<double>& v) -> std::unique_ptr<Kernel> {
        return std::make_unique<EdgeKernel>(t, v, s.rate, channelsOf(s.shape), side);
    };
    k.response = perChannel([side](const Values& v, double hz, double rate) {
        return dsp::response(edgeOf(side, v[edge.shape], v[edge.slope], v[edge.corner], rate), hz, rate);
    });
    k.glyph = Glyph::curve;
    k.picture = Picture::curve;
}

} // namespace loom::engine
