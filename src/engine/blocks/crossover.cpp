// Crossover: one thread into two, three or four bands. Every edge has a shape and a slope of its own.
#include "dsp/cascade.h"
#include "dsp/edge.h"
#include "engine/blocks/edge_block.h"

namespace loom::engine {
namespace {

// Parameters: per edge hz, shape, slope; then per band gain, polarity, mute.
constexpr int perEdge = 3, perBand = 3;
enum { edgeHz, edgeForm, edgeSteep };
enum { bandGain, bandTurn, bandMute };

int bandsOf(const Shape& s) {
    return countOf(s, "bands");
}
int edgeAt(int edge, int field) {
    return edge * perEdge + field;
}
int bandAt(int bands, int band, int field) {
    return (bands - 1) * perEdge + band * perBand + field;
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
        if (how != Start::glide)
            shape[0] = params_.target(edgeAt(e, edgeForm)), shape[1] = params_.target(edgeAt(e, edgeSteep));
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
        const auto p = [&](int field) {
            const int i = bandAt(bands_, band, field);
            return before ? params_.before(i) : params_.now(i);
        };
        return p(bandGain) * (1 - 2 * p(bandTurn)) * (1 - p(bandMute));
    }
    void process(Inputs in, Outputs out, int frames) noexcept override {
        for (int b = 0; b < bands_; ++b) {
            float a[maxFrame], c[maxFrame];
            const float* x = in[0];
            if (b > 0)
                highPass(b - 1).process(x, a, frames), x = a;
            if (b + 1 < bands_)
                lowPass(b).process(x, c, frames), x = c;
            applyGain(x, out[static_cast<std::size_t>(b)], bandNow(b, true), bandNow(b, false), frames);
        }
    }
    int bands_;
    std::vector<dsp::Cascade> filters_;
    std::vector<double> shapes_;
};

dsp::Complex crossoverResponse(const Values& v, int, int band, double hz, double rate) {
    const int bands = v.shape("bands");
    const auto& p = v.all();
    const auto edge = [&](int e, dsp::EdgeSide side) {
        const auto at = static_cast<std::size_t>(edgeAt(e, 0));
        return dsp::response(edgeOf(side, p[at + edgeForm], p[at + edgeSteep], p[at + edgeHz], rate), hz, rate);
    };
    const auto at = static_cast<std::size_t>(bandAt(bands, band, 0));
    if (p[at + bandMute] >= 0.5 || p[at + bandGain] <= -80)
        return 0;
    dsp::Complex h = dsp::gainFromDb(p[at + bandGain]) * (p[at + bandTurn] >= 0.5 ? -1.0 : 1.0);
    if (band > 0)
        h *= edge(band - 1, dsp::EdgeSide::highPass);
    if (band + 1 < bands)
        h *= edge(band, dsp::EdgeSide::lowPass);
    return h;
}

} // namespace

BlockKind declare_crossover() {
    BlockKind k;
    k.id = "crossover", k.label = "Crossover", k.group = Group::filters;
    k.purpose = "Divides a thread into two, three or four bands for the ways of a loudspeaker.";
    k.shape = {{"bands", "Bands", 2, 2, 4}};
    k.params = [](const Shape& s) {
        static constexpr double corners[3][3] = {{1800, 0, 0}, {400, 3000, 0}, {120, 800, 4000}};
        const int bands = bandsOf(s);
        std::vector<ParamSpec> p;
        for (int e = 1; e < bands; ++e) {
            const std::string n = "edge-" + std::to_string(e), say = "Edge " + std::to_string(e);
            p.push_back(frequencyParam(n + ".hz", say, corners[bands - 2][e - 1]));
            p.push_back(edgeShapeParam(n + ".shape", say + " shape", n + ".slope", 1));
            p.push_back(choiceParam(
                n + ".slope", say + " slope",
                {"6 dB/oct", "12 dB/oct", "18 dB/oct", "24 dB/oct", "30 dB/oct", "36 dB/oct", "42 dB/oct", "48 dB/oct"},
                3));
        }
        for (int b = 1; b <= bands; ++b) {
            const std::string n = "band-" + std::to_string(b), say = "Band " + std::to_string(b);
            ParamSpec turn = choiceParam(n + ".polarity", say + " polarity", {"normal", "inverted"});
            ParamSpec mute = onOffParam(n + ".mute", say + " mute", false);
            turn.glide = mute.glide = Glide::linear;
            p.push_back(levelParam(n + ".gain", say + " level", -80, 12, 0, true));
            p.push_back(turn);
            p.push_back(mute);
        }
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
    k.glyph = Glyph::curve, k.picture = Picture::curve;
    k.flat = [](const Values&) { return false; };
    return k;
}

} // namespace loom::engine
