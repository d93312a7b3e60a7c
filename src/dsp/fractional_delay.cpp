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

// Sixteen samples at a time; reads and writes up to a whole frame.
template <int B> LOOM_INLINE void interpolateBody(const float* taps, const float* x, float* y) {
    using E = EightF<B>;
    for (int i = 0; i < maxFrame; i += 2 * laneCount) {
        E a = E::all(0), b = E::all(0);
        for (int t = 0; t < delayTaps; ++t) {
            const E p = E::load(x + i + t), q = E::load(x + i + t + laneCount);
            for (int j = 0; j < E::n; ++j) {
                a.v[j] += p.v[j] * taps[t];
                b.v[j] += q.v[j] * taps[t];
            }
        }
        a.store(y + i);
        b.store(y + i + laneCount);
    }
}

LOOM_WIDE(interpolate, interpolateBody, (const float* taps, const float* x, float* y), (taps, x, y))

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
    const double half = firstFractionalDelay, centre = half - 1 + fraction;
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
    length_ = std::max(maxSamples, 1) + delayTaps + 2 * maxFrame;
    ring_.assign(2 * static_cast<std::size_t>(length_) + maxFrame, 0.0f); // a short frame's reading may pass the end
    head_ = 0;
}

void DelayLine::clear() {
    std::fill(ring_.begin(), ring_.end(), 0.0f);
}

// Every sample is written twice, so that the newest `length_` always lie in one piece.
void DelayLine::write(const float* in, int frames) {
    for (int done = 0; done < frames;) {
        const int at = head_ + 1 == length_ ? 0 : head_ + 1, n = std::min(frames - done, length_ - at);
        float* to = ring_.data() + at;
        std::memcpy(to, in + done, sizeof(float) * static_cast<std::size_t>(n));
        std::memcpy(to + length_, to, sizeof(float) * static_cast<std::size_t>(n));
        head_ = at + n - 1;
        done += n;
    }
}

const float* DelayLine::read(const DelayDesign& d, float* made, int frames) const {
    const float* first = ring_.data() + head_ + length_ - (frames - 1) - d.whole; // of the frame's first sample
    if (!d.fractional)
        return first;
    interpolate(d.taps.data(), first - (delayTaps - 1), made);
    return made;
}

} // namespace loom::dsp
