#include "dsp/band_filters.h"

namespace loom::dsp {
namespace {

// Poles f1..f4 of IEC 61672-1:2013, annex E, in Hz.
constexpr double f1 = 20.598997, f2 = 107.65265, f3 = 737.86223, f4 = 12194.217;

// Denominator of a pair of poles of the z plane.
Section withPoles(Complex p, Complex q) {
    Section s;
    s.a1 = -(p + q).real();
    s.a2 = (p * q).real();
    return s;
}

Complex bilinear(Complex s) { // s in units of tan(pi f / rate)
    return (1.0 + s) / (1.0 - s);
}

void scaleAt(Section& s, double hz, double rate, double wanted) {
    const double g = wanted / std::abs(response(s, hz, rate));
    s.b0 *= g;
    s.b1 *= g;
    s.b2 *= g;
}

} // namespace

bool designFractionalOctave(double midHz, int bandsPerOctave, double rate,
                            std::array<Section, bandSections>& sections) {
    const double half = std::pow(10.0, 0.3 / (2 * bandsPerOctave));
    if (midHz * half >= 0.4999 * rate) {
        sections.fill({0, 0, 0, 0, 0});
        return false;
    }
    const double low = std::tan(pi * midHz / half / rate), high = std::tan(pi * midHz * half / rate);
    const double width = high - low, square = low * high;
    const double centre = std::atan(std::sqrt(square)) * rate / pi;
    // Poles of the fourth-order Butterworth low-pass, each becoming two: s^2 - p w s + c^2 = 0.
    const auto pair = [&](Complex p) {
        const Complex root = std::sqrt(p * p * width * width - 4 * square);
        return std::pair((p * width + root) / 2.0, (p * width - root) / 2.0);
    };
    const auto [a, b] = pair(std::polar(1.0, pi * 5 / 8));
    const auto [c, d] = pair(std::polar(1.0, pi * 7 / 8));
    const Complex poles[bandSections] = {a, b, c, d}; // each with its conjugate
    for (std::size_t k = 0; k < bandSections; ++k) {
        sections[k] = withPoles(bilinear(poles[k]), bilinear(std::conj(poles[k])));
        sections[k].b0 = 1;
        sections[k].b1 = 0;
        sections[k].b2 = -1; // zeros at 0 Hz and half the rate
        scaleAt(sections[k], centre, rate, 1);
    }
    return true;
}

const std::vector<double>& octaveCentres() {
    static const std::vector<double> centres = [] {
        std::vector<double> c;
        for (int n = -5; n <= 4; ++n)
            c.push_back(1000.0 * std::pow(10.0, 0.3 * n));
        return c;
    }();
    return centres;
}

std::array<Section, weightingSections> designWeighting(Weighting weighting, double rate) {
    std::array<Section, weightingSections> all{};
    if (weighting == Weighting::none)
        return all;
    const auto pole = [rate](double hz) { return bilinear(-pi * hz / rate); };
    all[0] = withPoles(pole(f1), pole(f1));
    all[0].b1 = -2;
    all[0].b2 = 1;
    all[1] = withPoles(pole(f4), pole(f4));
    all[1].b1 = 2;
    all[1].b2 = 1;
    if (weighting == Weighting::a) {
        all[2] = withPoles(pole(f2), pole(f3));
        all[2].b1 = -2;
        all[2].b2 = 1;
    }
    for (Section& s : all)
        scaleAt(s, 1000, rate, 1);
    return all;
}

} // namespace loom::dsp
