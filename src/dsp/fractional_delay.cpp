#include "dsp/fractional_delay.h"
#include "dsp/dispatch.h"
#include <algorithm>
#include <cstring>

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
        d.taps[delayTaps - 1 - i] = static_cast<float>(tap);
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
        h += static_cast<double>(d.taps[delayTaps - 1 - i]) * std::polar(1.0, -w * (d.whole + i));
    return h;
}

void DelayLine::prepare(int maxSamples) {
    length_ = std::max(maxSamples, 1) + delayTaps + 1;
    ring_.assign(2 * static_cast<std::size_t>(length_), 0.0f);
    head_ = 0;
}

void DelayLine::clear() {
    std::fill(ring_.begin(), ring_.end(), 0.0f);
}

LOOM_HOT float DelayLine::read(const DelayDesign& d) const {
    const float* newest = ring_.data() + head_ + length_ - d.whole;
    if (!d.fractional)
        return *newest;
    const float* x = newest - (delayTaps - 1);
    typedef float Wide __attribute__((vector_size(16)));
    Wide sums{};
    for (int i = 0; i < delayTaps; i += 4) {
        Wide taps, samples;
        std::memcpy(&taps, d.taps.data() + i, sizeof taps);
        std::memcpy(&samples, x + i, sizeof samples);
        sums += taps * samples;
    }
    float sum = 0;
    for (int k = 0; k < 4; ++k)
        sum += sums[k];
    return sum;
}

} // namespace loom::dsp
