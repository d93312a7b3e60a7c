#include "dsp/test_signals.h"
#include "dsp/edge.h"
#include <algorithm>
#include <cmath>

namespace loom::dsp {

SpeechNoise::SpeechNoise(double rate) {
    double total = 0;
    for (const double db : levelsDb)
        total += std::pow(10.0, db / 10);
    for (std::size_t o = 0; o < octaves; ++o) {
        const double centre = 125 * std::pow(2.0, static_cast<double>(o)),
                     top = std::min(centre * std::sqrt(2.0), 0.45 * rate);
        Octave& b = bands_[o];
        b.noise = WhiteNoise(0x9E3779B97F4A7C15ull * (2 * o + 3));
        const auto low = designEdge(EdgeShape::butterworth, EdgeSide::lowPass, 8, top, rate),
                   high = designEdge(EdgeShape::butterworth, EdgeSide::highPass, 8, centre / std::sqrt(2.0), rate);
        std::copy_n(low.sections.begin(), 4, b.sections.begin());
        std::copy_n(high.sections.begin(), 4, b.sections.begin() + 4);
        // What the band leaves of white noise of variance 1/3.
        double share = 0;
        constexpr int points = 4000;
        for (int i = 0; i < points; ++i) {
            const double hz = rate / 2 * (i + 0.5) / points;
            double power = 1;
            for (const auto& section : b.sections)
                power *= std::norm(response(section, hz, rate));
            share += power / points / 3;
        }
        b.gain = 0.1 * std::sqrt(std::pow(10.0, levelsDb[o] / 10) / total / share);
        for (std::size_t k = 0; k < 2; ++k)
            b.turn[k] = 2 * pi * modulations[o][k] / rate;
    }
}

double SpeechNoise::step() {
    double sum = 0;
    for (auto& b : bands_) {
        double y = b.noise.step();
        for (std::size_t s = 0; s < b.sections.size(); ++s)
            y = b.states[s].step(b.sections[s], y);
        for (std::size_t k = 0; k < 2; ++k)
            if ((b.phase[k] += b.turn[k]) > 2 * pi)
                b.phase[k] -= 2 * pi;
        // Intensity 1 + 0.55 (sin - sin), as the standard has it, so that the two do not add up beyond 100 %.
        const double intensity = std::max(0.0, 1 + 0.55 * (std::sin(b.phase[0]) - std::sin(b.phase[1])));
        sum += y * b.gain * std::sqrt(intensity);
    }
    return sum;
}

} // namespace loom::dsp
