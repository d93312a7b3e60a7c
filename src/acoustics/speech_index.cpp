#include "acoustics/speech_index.h"
#include "acoustics/octaves.h"
#include <algorithm>
#include <cmath>
#include <complex>
#include <numbers>

namespace loom::acoustics {
namespace {

// IEC 60268-16:2011, table A.1 (male) and table A.2; the first place stands for 63 Hz, which has no part.
constexpr Bands weight{0, 0.085, 0.127, 0.230, 0.233, 0.309, 0.224, 0.173};
constexpr Bands redundancy{0, 0.085, 0.078, 0.065, 0.011, 0.047, 0.095, 0};
constexpr Bands threshold{0, 46, 27, 12, 6.5, 7.5, 8, 12};

// Slope of masking by the band below, dB (annex A.4.2).
double masking(double level) {
    if (level < 63)
        return 0.5 * level - 65;
    if (level < 67)
        return 1.8 * level - 146.9;
    return level < 100 ? 0.5 * level - 59.8 : -10;
}

double transferIndex(const std::array<double, modulations>& m, double factor) {
    double sum = 0;
    for (const double one : m) {
        const double kept = std::clamp(one * factor, 1e-9, 1 - 1e-9);
        sum += (std::clamp(10 * std::log10(kept / (1 - kept)), -15.0, 15.0) + 15) / 30;
    }
    return sum / modulations;
}

double index(const Modulation& m, const Bands& factor) {
    Bands mti{};
    for (std::size_t b = 1; b < bandCount; ++b)
        mti[b] = transferIndex(m[b], factor[b]);
    double sti = 0;
    for (std::size_t b = 1; b < bandCount; ++b) {
        sti += weight[b] * mti[b];
        if (b + 1 < bandCount)
            sti -= redundancy[b] * std::sqrt(mti[b] * mti[b + 1]);
    }
    return std::clamp(sti, 0.0, 1.0);
}

} // namespace

double speechIndex(const Modulation& m, const Bands& speech, const Bands& noise) {
    Bands factor{};
    double below = 0; // energy of the band below
    for (std::size_t b = 1; b < bandCount; ++b) {
        const double s = energyOf(speech[b]), all = s + energyOf(noise[b]);
        const double masked = b == 1 ? 0 : below * energyOf(masking(decibels(below)));
        factor[b] = s / (all + masked + energyOf(threshold[b]));
        below = all;
    }
    return index(m, factor);
}

double speechIndex(const Modulation& m) {
    return index(m, filled(1));
}

Modulation modulationOf(std::span<const float> response, double rate) {
    Modulation m{};
    for (std::size_t b = 1; b < bandCount; ++b) {
        const auto band = octaveBand(response, bandHz[b], rate);
        double total = 0;
        for (const double v : band)
            total += v * v;
        for (std::size_t f = 0; f < modulations; ++f) {
            const std::complex<double> step = std::polar(1.0, -2 * std::numbers::pi * modulationHz[f] / rate);
            std::complex<double> turn = 1, sum = 0;
            for (const double v : band) {
                sum += v * v * turn;
                turn *= step;
            }
            m[b][f] = total > 0 ? std::abs(sum) / total : 0;
        }
    }
    return m;
}

double decayModulation(double hz, double t) {
    const double x = 2 * std::numbers::pi * hz * t / 13.8;
    return 1 / std::sqrt(1 + x * x);
}

} // namespace loom::acoustics
