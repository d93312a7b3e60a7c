// A block whose sections always are of one number: its parameters glide, and a choice among kinds of filter
// cross-fades.
#pragma once
#include "engine/blocks/cascade_gang.h"

namespace loom::engine {

// Design: void(const GlideBank&, double rate, double kind, dsp::Section* sections), called at the start and while
// parameters move; `kind` is the value of parameter number kindParam (-1: there is none).
template <int Count, class Design> class FixedCascadeKernel final : public CascadeKernel {
  public:
    FixedCascadeKernel(const ParamTable& t, const std::vector<double>& v, double rate, int channels, Design design,
                       int kindParam)
        : CascadeKernel(t, v, rate, channels), design_(design), kindParam_(kindParam), kind_(wanted()) {
        design_(params_, rate_, kind_, sections_.data());
        for (auto& c : cascades_)
            c.jumpTo(sections_);
    }

  private:
    double wanted() const { return kindParam_ < 0 ? 0 : params_.target(kindParam_); }
    void prepare(int) noexcept override {
        const bool other = wanted() != kind_ && !cascades_[0].switching();
        if (other)
            kind_ = wanted();
        awake_ = wanted() != kind_;
        design_(params_, rate_, kind_, sections_.data());
        for (auto& c : cascades_)
            other ? c.switchTo(sections_) : c.glideTo(sections_);
    }
    Design design_;
    int kindParam_;
    double kind_;
    std::array<dsp::Section, Count> sections_{};
};

// Kernel and response are made from the same design.
template <int Count, class Design> void declareFixedCascade(BlockKind& k, Design design, int kindParam = -1) {
    declareCascade(k);
    k.inputs = k.outputs = channelsOf;
    k.cost = [](const Shape& s, double) {
        return Cost{(0.3 + 0.4 * Count) * channelsOf(s), 120.0 * Count * channelsOf(s)};
    };
    k.kernel = [design, kindParam](const KernelSetup& s, const ParamTable& t,
                                   const std::vector<double>& v) -> std::unique_ptr<Kernel> {
        return std::make_unique<FixedCascadeKernel<Count, Design>>(t, v, s.rate, channelsOf(s.shape), design,
                                                                   kindParam);
    };
    k.response = perChannel([design, kindParam](const Values& v, double hz, double rate) {
        const GlideBank at(v.table(), v.all(), 1);
        std::array<dsp::Section, Count> sections{};
        design(at, rate, kindParam < 0 ? 0 : at.target(kindParam), sections.data());
        dsp::Complex h = 1;
        for (const auto& s : sections)
            h *= dsp::response(s, hz, rate);
        return h;
    });
    k.glyph = Glyph::curve;
    k.picture = Picture::curve;
}

} // namespace loom::engine
