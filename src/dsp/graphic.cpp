#include "dsp/graphic.h"
#include <algorithm>
#include <map>
#include <memory>
#include <mutex>

namespace loom::dsp {
namespace {

constexpr double prototypeDb = 6;

} // namespace

const std::array<double, graphicBands>& graphicNominals() {
    static const std::array<double, graphicBands> all = {
        20,  25,   31.5, 40,   50,   63,   80,   100,  125,  160,  200,  250,   315,   400,   500,  630,
        800, 1000, 1250, 1600, 2000, 2500, 3150, 4000, 5000, 6300, 8000, 10000, 12500, 16000, 20000};
    return all;
}

GraphicDesign::GraphicDesign(double rate) : rate_(rate) {
    for (std::size_t b = 0; b < graphicBands; ++b) {
        centres_[b] = std::min(1000 * std::pow(10.0, (static_cast<double>(b) - 17) / 10), 0.47 * rate);
        q_[b] = qFromOctaves(0.42); // a little over a third of an octave at half gain: neighbours meet
        const double w = 2 * pi * centres_[b] / rate;
        cos_[0][b] = std::cos(w);
        cos_[1][b] = std::cos(2 * w);
    }
    // Leakage: dB at centre r for a dB of band c, inverted by Gauss-Jordan with pivoting.
    std::array<Row, graphicBands> a;
    for (std::size_t r = 0; r < graphicBands; ++r)
        for (std::size_t c = 0; c < graphicBands; ++c) {
            a[r][c] = dbFromGain(std::abs(loom::dsp::response(band(c, prototypeDb), centres_[r], rate))) / prototypeDb;
            inverse_[r][c] = r == c ? 1 : 0;
        }
    for (std::size_t p = 0; p < graphicBands; ++p) {
        std::size_t best = p;
        for (std::size_t r = p; r < graphicBands; ++r)
            if (std::abs(a[r][p]) > std::abs(a[best][p]))
                best = r;
        std::swap(a[p], a[best]);
        std::swap(inverse_[p], inverse_[best]);
        const double scale = 1 / a[p][p];
        for (std::size_t c = 0; c < graphicBands; ++c) {
            a[p][c] *= scale;
            inverse_[p][c] *= scale;
        }
        for (std::size_t r = 0; r < graphicBands; ++r)
            if (const double f = a[r][p]; r != p && f != 0)
                for (std::size_t c = 0; c < graphicBands; ++c) {
                    a[r][c] -= f * a[p][c];
                    inverse_[r][c] -= f * inverse_[p][c];
                }
    }
}

const GraphicDesign& GraphicDesign::of(double rate) {
    static std::mutex lock;
    static std::map<double, std::unique_ptr<GraphicDesign>> made;
    std::lock_guard guard(lock);
    auto& d = made[rate];
    if (!d)
        d = std::make_unique<GraphicDesign>(rate);
    return *d;
}

Section GraphicDesign::band(std::size_t b, double gainDb) const {
    return designBand(BellKind::bell, centres_[b], gainDb, q_[b], rate_);
}

std::array<Section, graphicBands> GraphicDesign::sections(const std::array<double, graphicBands>& sliders) const {
    Row gains{}, missing = sliders;
    std::array<Section, graphicBands> s;
    for (int round = 0; round < 3; ++round) {
        for (std::size_t b = 0; b < graphicBands; ++b)
            for (std::size_t c = 0; c < graphicBands; ++c)
                gains[b] += inverse_[b][c] * missing[c];
        for (std::size_t b = 0; b < graphicBands; ++b)
            s[b] = band(b, std::clamp(gains[b], -40.0, 40.0));
        if (round == 2)
            break;
        for (std::size_t c = 0; c < graphicBands; ++c) { // |H|^2 of a section from the cosines of w and 2 w
            double power = 1;
            for (const auto& k : s) {
                const double above = k.b0 * k.b0 + k.b1 * k.b1 + k.b2 * k.b2 +
                                     2 * cos_[0][c] * (k.b0 * k.b1 + k.b1 * k.b2) + 2 * cos_[1][c] * k.b0 * k.b2,
                             below = 1 + k.a1 * k.a1 + k.a2 * k.a2 + 2 * cos_[0][c] * (k.a1 + k.a1 * k.a2) +
                                     2 * cos_[1][c] * k.a2;
                power *= above / below;
            }
            missing[c] = sliders[c] - 10 * std::log10(std::max(power, 1e-12));
        }
    }
    for (std::size_t b = 0; b < graphicBands; ++b)
        if (std::abs(gains[b]) < 1e-9)
            s[b] = {};
    return s;
}

Complex GraphicDesign::response(const std::array<double, graphicBands>& sliders, double hz) const {
    // A curve asks for hundreds of frequencies of the same sliders.
    thread_local std::array<Section, graphicBands> made;
    thread_local std::array<double, graphicBands> madeFor;
    thread_local const GraphicDesign* madeBy = nullptr;
    if (madeBy != this || madeFor != sliders) {
        made = sections(sliders);
        madeFor = sliders;
        madeBy = this;
    }
    Complex h = 1;
    for (const auto& s : made)
        h *= loom::dsp::response(s, hz, rate_);
    return h;
}

} // namespace loom::dsp
