#include "dsp/fractional_delay.h"
#include <algorithm>
#include <bit>

namespace loom::dsp {
namespace {

double bessel0(double x) {
    double sum = 1, term = 1;
    for (int k = 1; k < 60; ++k) {
        term *= (x / (2.0 * k)) * (x / (2.0 * k));
        sum += term;
    }
    return sum;
}

} // namespace

DelayDesign designDelay(double samples) {
    DelayDesign d;
    const double fraction = samples - std::floor(samples);
    if (samples < firstFractionalDelay || fraction < 1e-6 || fraction > 1.0 - 1e-6) {
        d.whole = static_cast<int>(std::lround(samples));
        return d;
    }
    d.fractional = true;
    d.whole = static_cast<int>(std::floor(samples)) - (delayTaps / 2 - 1);
    constexpr double beta = 8.0;
    const double centre = delayTaps / 2 - 1 + fraction, half = delayTaps / 2;
    double sum = 0;
    for (int i = 0; i < delayTaps; ++i) {
        const double x = i - centre, r = x / half;
        const double window = std::abs(r) < 1 ? bessel0(beta * std::sqrt(1 - r * r)) / bessel0(beta) : 0.0;
        const double tap = std::sin(pi * x) / (pi * x) * window;
        d.taps[i] = static_cast<float>(tap);
        sum += tap;
    }
    for (float& t : d.taps)
        t = static_cast<float>(t / sum);
    return d;
}

Complex response(const DelayDesign& d, double hz, double rate) {
    const double w = 2.0 * pi * hz / rate;
    if (!d.fractional)
        return std::polar(1.0, -w * d.whole);
    Complex h = 0;
    for (int i = 0; i < delayTaps; ++i)
        h += static_cast<double>(d.taps[i]) * std::polar(1.0, -w * (d.whole + i));
    return h;
}

void DelayLine::prepare(int maxSamples) {
    ring_.assign(std::bit_ceil(static_cast<unsigned>(std::max(maxSamples, 1) + delayTaps + 1)), 0.0f);
    mask_ = static_cast<unsigned>(ring_.size()) - 1;
    head_ = 0;
}

void DelayLine::clear() { std::fill(ring_.begin(), ring_.end(), 0.0f); }

float DelayLine::read(const DelayDesign& d) const {
    const unsigned start = head_ - static_cast<unsigned>(d.whole);
    if (!d.fractional)
        return ring_[start & mask_];
    float sum = 0;
    for (unsigned i = 0; i < delayTaps; ++i)
        sum += d.taps[i] * ring_[(start - i) & mask_];
    return sum;
}

} // namespace loom::dsp
