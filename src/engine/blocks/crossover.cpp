// Crossover: one thread into two, three or four bands. Every edge has a shape and a slope of its own.
#include "dsp/cascade.h"
#include "dsp/edge.h"
#include "engine/blocks/edge_block.h"

namespace loom::engine::crossover_block {
namespace {

// Edges first, then bands.
ParamRows edges;
std::string edgeId(int number, const char* field) {
    return "edge-" + std::to_string(number) + field;
}
std::string edgeLabel(int number, const char* field) {
    return "Edge " + std::to_string(number) + field;
}
const auto edgeHz = edges.add([](int n) { return frequencyParam(edgeId(n, ".hz"), edgeLabel(n, ""), 1000); });
const auto edgeForm = edges.add(
    [](int n) { return edgeShapeParam(edgeId(n, ".shape"), edgeLabel(n, " shape"), edgeId(n, ".slope"), 1); });
const auto edgeSteep = edges.add([](int n) { return slopeParam(edgeId(n, ".slope"), edgeLabel(n, " slope"), 3); });

ParamRows rows;
std::string bandId(int number, const char* field) {
    return "band-" + std::to_string(number) + field;
}
std::string bandLabel(int number, const char* field) {
    return "Band " + std::to_string(number) + field;
}
const auto bandGain =
    rows.add([](int n) { return levelParam(bandId(n, ".gain"), bandLabel(n, " level"), -80, 12, 0, true); });
const auto bandTurn = rows.add([](int n) { return polarityParam(bandId(n, ".polarity"), bandLabel(n, " polarity")); });
const auto bandMute =
    rows.add([](int n) { return gliding(onOffParam(bandId(n, ".mute"), bandLabel(n, " mute"), false)); });

int bandsOf(const Shape& s) {
    return countOf(s, "bands");
}
Param edgeAt(int edge, ParamRows::Field field) {
    return edges.at(0, edge, field);
}
Param bandAt(int bands, int band, ParamRows::Field field) {
    return rows.at((bands - 1) * edges.width(), band, field);
}

class CrossoverKernel final : public Kernel {
  public:
    CrossoverKernel(const ParamTable& t, const std::vector<double>& v, double rate, int bands)
        : Kernel(t, v, rate), bands_(bands), filters_(static_cast<std::size_t>(2 * bands)),
          shapes_(static_cast<std::size_t>(2 * (bands - 1))) {
        for (int e = 0; e + 1 < bands_; ++e)
            designEdge(e, Start::jump);
    }

  private:
    enum class Start { jump, glide, fade };
    // Below an edge lies band e (its low-pass), above it band e + 1 (its high-pass).
    dsp::Cascade& lowPass(int e) { return filters_[static_cast<std::size_t>(2 * e)]; }
    dsp::Cascade& highPass(int e) { return filters_[static_cast<std::size_t>(2 * e + 1)]; }
    double* shapeOf(int e) { return &shapes_[static_cast<std::size_t>(2 * e)]; }
    void designEdge(int e, Start how) {
        double* shape = shapeOf(e);
        if (how != Start::glide) {
            shape[0] = params_.target(edgeAt(e, edgeForm));
            shape[1] = params_.target(edgeAt(e, edgeSteep));
        }
        const double hz = std::exp(params_.now(edgeAt(e, edgeHz)));
        for (const auto side : {dsp::EdgeSide::lowPass, dsp::EdgeSide::highPass}) {
            const auto d = edgeOf(side, shape[0], shape[1], hz, rate_);
            auto& c = side == dsp::EdgeSide::lowPass ? lowPass(e) : highPass(e);
            const std::span<const dsp::Section> sections(d.sections.data(), d.count);
            how == Start::jump ? c.jumpTo(sections) : how == Start::glide ? c.glideTo(sections) : c.switchTo(sections);
        }
    }
    void prepare(int) noexcept override {
        awake_ = false;
        for (int e = 0; e + 1 < bands_; ++e) {
            const bool other = params_.target(edgeAt(e, edgeForm)) != shapeOf(e)[0] ||
                               params_.target(edgeAt(e, edgeSteep)) != shapeOf(e)[1];
            if (other && !lowPass(e).switching())
                designEdge(e, Start::fade);
            else if (params_.now(edgeAt(e, edgeHz)) != params_.before(edgeAt(e, edgeHz)))
                designEdge(e, Start::glide);
            awake_ = awake_ || (other && lowPass(e).switching());
        }
    }
    double bandNow(int band, bool before) const {
        const auto p = [&](ParamRows::Field field) {
            const Param i = bandAt(bands_, band, field);
            return before ? params_.before(i) : params_.now(i);
        };
        return p(bandGain) * (1 - 2 * p(bandTurn)) * (1 - p(bandMute));
    }
    void process(Inputs in, Outputs out, int frames) noexcept override {
        for (int b = 0; b < bands_; ++b) {
            float a[maxFrame], c[maxFrame];
            const float* x = in[0];
            if (b > 0) {
                highPass(b - 1).process(x, a, frames);
                x = a;
            }
            if (b + 1 < bands_) {
                lowPass(b).process(x, c, frames);
                x = c;
            }
            applyGain(x, out[static_cast<std::size_t>(b)], bandNow(b, true), bandNow(b, false), frames);
        }
    }
    int bands_;
    std::vector<dsp::Cascade> filters_;
    std::vector<double> shapes_;
};

dsp::Complex crossoverResponse(const Values& v, int, int band, double hz, double rate) {
    const int bands = v.shape("bands");
    const auto edge = [&](int e, dsp::EdgeSide side) {
        return dsp::response(edgeOf(side, v[edgeAt(e, edgeForm)], v[edgeAt(e, edgeSteep)], v[edgeAt(e, edgeHz)], rate),
                             hz, rate);
    };
    const double gainDb = v[bandAt(bands, band, bandGain)];
    if (v[bandAt(bands, band, bandMute)] >= 0.5 || gainDb <= -80)
        return 0;
    dsp::Complex h = dsp::gainFromDb(gainDb) * (v[bandAt(bands, band, bandTurn)] >= 0.5 ? -1.0 : 1.0);
    if (band > 0)
        h *= edge(band - 1, dsp::EdgeSide::highPass);
    if (band + 1 < bands)
        h *= edge(band, dsp::EdgeSide::lowPass);
    return h;
}

} // namespace

BlockKind declare() {
    BlockKind k;
    k.id = "crossover";
    k.label = "Crossover";
    k.group = Group::filters;
    k.purpose = "Divides a thread into two, three or four bands for the ways of a loudspeaker.";
    k.shape = {{"bands", "Bands", 2, 2, 4}};
    k.params = [](const Shape& s) {
        static constexpr double corners[3][3] = {{1800, 0, 0}, {400, 3000, 0}, {120, 800, 4000}};
        const int bands = bandsOf(s);
        std::vector<ParamSpec> p;
        edges.append(p, bands - 1);
        for (int e = 0; e + 1 < bands; ++e)
            p[static_cast<std::size_t>(edgeAt(e, edgeHz))].def = corners[bands - 2][e];
        rows.append(p, bands);
        return p;
    };
    k.inputs = [](const Shape&) { return 1; };
    k.outputs = bandsOf;
    k.cost = [](const Shape& s, double) { return Cost{13.0 * (bandsOf(s) - 1), 3000.0 * bandsOf(s)}; };
    k.kernel = [](const KernelSetup& s, const ParamTable& t, const std::vector<double>& v) -> std::unique_ptr<Kernel> {
        return std::make_unique<CrossoverKernel>(t, v, s.rate, bandsOf(s.shape));
    };
    k.response = crossoverResponse;
    k.portName = [](const Shape& s, bool input, int port) -> std::string {
        static const char* names[3][4] = {
            {"low", "high"}, {"low", "middle", "high"}, {"low", "low mid", "high mid", "high"}};
        return input ? "1" : names[bandsOf(s) - 2][port];
    };
    k.glyph = Glyph::curve;
    k.picture = Picture::curve;
    return k;
}

} // namespace loom::engine::crossover_block
