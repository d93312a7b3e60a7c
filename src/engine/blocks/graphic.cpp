// Graphic equaliser: 31 third-octave sliders, and a response that passes through them.
#include "dsp/graphic.h"
#include "dsp/cascade.h"
#include "dsp/number.h"
#include "engine/blocks/common.h"
#include <algorithm>
#include <cstdio>

namespace loom::engine {
namespace {

using dsp::graphicBands;

class GraphicKernel final : public Kernel {
  public:
    GraphicKernel(const ParamTable& t, const std::vector<double>& v, double rate, int channels)
        : Kernel(t, v, rate), design_(rate), chains_(static_cast<std::size_t>(channels)) {
        design(sections_);
        for (auto& c : chains_)
            c.first.jumpTo(lower()), c.second.jumpTo(upper());
    }

  private:
    struct Chain {
        dsp::Cascade first, second;
    };
    std::span<const dsp::Section> lower() const { return std::span(sections_).first(16); }
    std::span<const dsp::Section> upper() const { return std::span(sections_).subspan(16); }
    void design(std::array<dsp::Section, graphicBands>& to) const {
        std::array<double, graphicBands> sliders;
        for (std::size_t b = 0; b < graphicBands; ++b)
            sliders[b] = dsp::dbFromGain(params_.now(1 + static_cast<int>(b)));
        to = design_.sections(sliders);
    }
    void prepare(int) noexcept override {
        design(sections_);
        for (auto& c : chains_)
            c.first.glideTo(lower()), c.second.glideTo(upper());
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

BlockKind declare_graphic() {
    BlockKind k;
    k.id = "graphic", k.label = "Graphic equaliser", k.group = Group::filters;
    k.purpose = "31 third-octave sliders; neighbours are corrected, so that the response passes through them.";
    k.shape = {channelsSpec()};
    k.params = [](const Shape&) {
        std::vector<ParamSpec> p{onOffParam("on", "On", true)};
        for (const double hz : dsp::graphicNominals()) {
            const std::string number = shortText(hz >= 1000 ? hz / 1000 : hz);
            ParamSpec slider = levelParam(hz >= 1000 ? number + "k" : number, "", -12, 12, 0);
            slider.label = number + (hz >= 1000 ? " kHz" : " Hz");
            std::replace(slider.id.begin(), slider.id.end(), '.', '_'); // a dot divides a path
            p.push_back(slider);
        }
        return p;
    };
    k.inputs = k.outputs = channelsOf;
    k.cost = [](const Shape& s, double) { return Cost{7.8 * channelsOf(s), 8000.0 * channelsOf(s)}; };
    k.kernel = [](const KernelSetup& s, const ParamTable& t, const std::vector<double>& v) -> std::unique_ptr<Kernel> {
        return std::make_unique<GraphicKernel>(t, v, s.rate, channelsOf(s.shape));
    };
    k.response = perChannel([](const Values& v, double hz, double rate) {
        std::array<double, graphicBands> sliders;
        for (std::size_t b = 0; b < graphicBands; ++b)
            sliders[b] = v.all()[1 + b];
        return dsp::GraphicDesign::of(rate).response(sliders, hz);
    });
    k.glyph = Glyph::curve, k.picture = Picture::curve;
    k.example = {{"63", 6}, {"80", 6}, {"250", -4}, {"315", -6}};
    k.flat = [](const Values& v) {
        return std::all_of(v.all().begin() + 1, v.all().end(), [](double g) { return g == 0; });
    };
    return k;
}

} // namespace loom::engine
