// Graphic equaliser: 31 third-octave sliders, and a response that passes through them.
#include "dsp/graphic.h"
#include "dsp/cascade.h"
#include "dsp/number.h"
#include "engine/blocks/common.h"
#include <algorithm>
#include <cstdio>

namespace loom::engine::graphic_block {
namespace {

using dsp::graphicBands;

ParamSet params;
const Param graphicOn = params.add(onOffParam("on", "On", true));
ParamRows sliders;
const auto gain = sliders.add([](int number) {
    const double hz = dsp::graphicNominals()[static_cast<std::size_t>(number) - 1];
    const std::string say = shortText(hz >= 1000 ? hz / 1000 : hz);
    ParamSpec slider = levelParam(hz >= 1000 ? say + "k" : say, say + (hz >= 1000 ? " kHz" : " Hz"), -12, 12, 0);
    std::replace(slider.id.begin(), slider.id.end(), '.', '_'); // a dot divides a path
    return slider;
});
Param gainOf(std::size_t band) {
    return sliders.at(params.size(), static_cast<int>(band), gain);
}

class GraphicKernel final : public Kernel {
  public:
    GraphicKernel(const ParamTable& t, const std::vector<double>& v, double rate, int channels)
        : Kernel(t, v, rate), design_(rate), chains_(static_cast<std::size_t>(channels)) {
        design(sections_);
        for (auto& c : chains_) {
            c.first.jumpTo(lower());
            c.second.jumpTo(upper());
        }
    }

  private:
    struct Chain {
        dsp::Cascade first, second;
    };
    std::span<const dsp::Section> lower() const { return std::span(sections_).first(16); }
    std::span<const dsp::Section> upper() const { return std::span(sections_).subspan(16); }
    void design(std::array<dsp::Section, graphicBands>& to) const {
        std::array<double, graphicBands> gains;
        for (std::size_t b = 0; b < graphicBands; ++b)
            gains[b] = dsp::dbFromGain(params_.now(gainOf(b)));
        to = design_.sections(gains);
    }
    void prepare(int) noexcept override {
        design(sections_);
        for (auto& c : chains_) {
            c.first.glideTo(lower());
            c.second.glideTo(upper());
        }
    }
    void process(Inputs in, Outputs out, int frames) noexcept override {
        float between[maxFrame];
        for (std::size_t c = 0; c < chains_.size(); ++c) {
            chains_[c].first.process(in[c], between, frames);
            chains_[c].second.process(between, out[c], frames);
        }
    }
    dsp::GraphicDesign design_;
    std::array<dsp::Section, graphicBands> sections_{};
    std::vector<Chain> chains_;
};

} // namespace

BlockKind declare() {
    BlockKind k;
    k.id = "graphic";
    k.label = "Graphic equaliser";
    k.group = Group::filters;
    k.purpose = "31 third-octave sliders; neighbours are corrected, so that the response passes through them.";
    k.shape = {channelsSpec()};
    k.params = [](const Shape& s) {
        auto specs = params(s);
        sliders.append(specs, static_cast<int>(graphicBands));
        return specs;
    };
    k.inputs = k.outputs = channelsOf;
    k.cost = [](const Shape& s, double) { return Cost{7.8 * channelsOf(s), 8000.0 * channelsOf(s)}; };
    k.kernel = perChannelKernel<GraphicKernel>();
    k.response = perChannel([](const Values& v, double hz, double rate) {
        std::array<double, graphicBands> gains;
        for (std::size_t b = 0; b < graphicBands; ++b)
            gains[b] = v[gainOf(b)];
        return dsp::GraphicDesign::of(rate).response(gains, hz);
    });
    k.glyph = Glyph::curve;
    k.picture = Picture::curve;
    k.example = {{"63", 6}, {"80", 6}, {"250", -4}, {"315", -6}};
    k.neutral = [](const Values& v) {
        for (std::size_t b = 0; b < graphicBands; ++b)
            if (v[gainOf(b)] != 0)
                return false;
        return true;
    };
    return k;
}

} // namespace loom::engine::graphic_block
