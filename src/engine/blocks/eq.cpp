// Equaliser: up to sixteen bands, each a bell, shelf, notch or all-pass.
#include "engine/blocks/cascade_gang.h"
#include <array>

namespace loom::engine::eq_block {
namespace {

ParamSet params;
const Param eqOn = params.add(onOffParam("on", "On", true));
ParamRows bands;
std::string id(int number, const char* field) {
    return std::to_string(number) + field;
}
std::string label(int number, const char* field) {
    return "Band " + std::to_string(number) + field;
}
double centreOf(int number) { // bands start a little over an octave apart, off and without gain
    static constexpr double centres[] = {63,    125,  250, 500, 1000, 2000, 4000, 8000,
                                         16000, 31.5, 90,  180, 350,  700,  1400, 2800};
    return centres[number - 1];
}
const auto bandOn = bands.add([](int n) { return onOffParam(id(n, ".on"), label(n, " on"), false); });
const auto bandKind = bands.add([](int n) {
    return choiceParam(id(n, ".kind"), label(n, " kind"), {"bell", "low shelf", "high shelf", "notch", "all-pass"});
});
const auto bandHz = bands.add([](int n) { return frequencyParam(id(n, ".hz"), label(n, " frequency"), centreOf(n)); });
const auto bandGain = bands.add([](int n) { return levelParam(id(n, ".gain"), label(n, " gain"), -24, 24, 0); });
const auto bandQ = bands.add([](int n) -> ParamSpec {
    return {id(n, ".q"), label(n, " width"), Unit::quality,     0.1, 40, 1.41,
            0.05,        Taper::logarithmic, Glide::logarithmic};
});
Param index(int band, ParamRows::Field field) {
    return bands.at(params.size(), band, field);
}

class EqKernel final : public CascadeKernel {
  public:
    EqKernel(const ParamTable& t, const std::vector<double>& v, double rate, int channels, int bands)
        : CascadeKernel(t, v, rate, channels), bands_(bands) {
        remember();
        const int n = design();
        for (auto& c : cascades_)
            c.jumpTo({sections_.data(), static_cast<std::size_t>(n)});
    }

  private:
    // Bands that are off pass everything, so that the number of sections never changes.
    int design() {
        for (int b = 0; b < bands_; ++b) {
            if (on_[b] < 0.5) {
                sections_[b] = {};
                continue;
            }
            const double gainDb = 20.0 * std::log10(std::max(params_.now(index(b, bandGain)), 1e-6));
            sections_[b] = dsp::designBand(static_cast<dsp::BellKind>(static_cast<int>(kind_[b])),
                                           std::min(std::exp(params_.now(index(b, bandHz))), 0.49 * rate_), gainDb,
                                           std::exp(params_.now(index(b, bandQ))), rate_);
        }
        return bands_;
    }
    bool otherKinds() const {
        for (int b = 0; b < bands_; ++b)
            if (on_[b] != params_.target(index(b, bandOn)) || kind_[b] != params_.target(index(b, bandKind)))
                return true;
        return false;
    }
    void remember() {
        for (int b = 0; b < bands_; ++b) {
            on_[b] = params_.target(index(b, bandOn));
            kind_[b] = params_.target(index(b, bandKind));
        }
    }
    void prepare(int) noexcept override {
        const bool change = otherKinds() && !cascades_[0].switching();
        if (change)
            remember();
        awake_ = otherKinds(); // a cross-fade is under way: the change waits for its end
        const auto n = static_cast<std::size_t>(design());
        for (auto& c : cascades_)
            change ? c.switchTo({sections_.data(), n}) : c.glideTo({sections_.data(), n});
    }

    int bands_;
    std::array<double, 16> on_{}, kind_{};
    std::array<dsp::Section, 16> sections_{};
};

dsp::BellKind kindOf(double value) {
    return static_cast<dsp::BellKind>(static_cast<int>(value));
}

dsp::Complex eqResponse(const Values& v, double hz, double rate) {
    dsp::Complex h = 1;
    for (int b = 0; b < v.shape("bands"); ++b)
        if (v[index(b, bandOn)] >= 0.5)
            h *=
                dsp::response(dsp::designBand(kindOf(v[index(b, bandKind)]), std::min(v[index(b, bandHz)], 0.49 * rate),
                                              v[index(b, bandGain)], v[index(b, bandQ)], rate),
                              hz, rate);
    return h;
}

// Notches and all-passes have no gain, and change something all the same.
bool eqNeutral(const Values& v) {
    for (int b = 0; b < v.shape("bands"); ++b)
        if (v[index(b, bandOn)] >= 0.5 &&
            (kindOf(v[index(b, bandKind)]) >= dsp::BellKind::notch || v[index(b, bandGain)] != 0))
            return false;
    return true;
}

} // namespace

BlockKind declare() {
    BlockKind k;
    k.id = "eq";
    k.label = "Equaliser";
    k.group = Group::filters;
    k.purpose = "Shapes the tone with up to sixteen bells, shelves, notches and all-passes.";
    k.shape = {channelsSpec(), {"bands", "Bands", 8, 1, 16}};
    k.params = [](const Shape& s) {
        auto specs = params(s);
        bands.append(specs, countOf(s, "bands"));
        return specs;
    };
    declareCascade(k);
    k.inputs = k.outputs = channelsOf;
    k.cost = [](const Shape& s, double) {
        return Cost{(0.3 + 0.22 * countOf(s, "bands")) * channelsOf(s), 120.0 * countOf(s, "bands")};
    };
    k.kernel = [](const KernelSetup& s, const ParamTable& t, const std::vector<double>& v) -> std::unique_ptr<Kernel> {
        return std::make_unique<EqKernel>(t, v, s.rate, channelsOf(s.shape), countOf(s.shape, "bands"));
    };
    k.response = perChannel(eqResponse);
    k.glyph = Glyph::curve;
    k.picture = Picture::curve;
    k.example = {{"2.on", 1}, {"2.hz", 250}, {"2.gain", -6}, {"5.on", 1}, {"5.hz", 3150}, {"5.gain", 5}, {"5.q", 2}};
    k.neutral = eqNeutral;
    return k;
}

} // namespace loom::engine::eq_block
