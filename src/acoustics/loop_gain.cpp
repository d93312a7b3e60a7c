#include "acoustics/loop_gain.h"
#include "dsp/real_fft.h"
#include <algorithm>
#include <cmath>
#include <numbers>

namespace loom::acoustics {

LoopLimit loopLimit(std::span<const float> response, double rate, double latency) {
    int size = 64;
    while (size < static_cast<int>(response.size()) * 4)
        size *= 2;
    dsp::RealFft fft(size);
    std::fill_n(fft.time(), size, 0.0f);
    std::copy(response.begin(), response.end(), fft.time());
    fft.forward();
    const double step = rate / size;
    const auto at = [&](int bin) {
        return std::complex<double>(fft.spectrum()[bin]) *
               std::polar(1.0, -2 * std::numbers::pi * bin * step * latency);
    };
    double most = 0, hz = 0;
    std::complex<double> before = at(1);
    for (int bin = 2; bin < fft.bins(); ++bin) {
        const auto now = at(bin);
        // The curve goes through the real axis between two bins; where to the right of zero, the loop is in phase.
        if ((before.imag() > 0) != (now.imag() > 0)) {
            const double part = before.imag() / (before.imag() - now.imag());
            const double real = before.real() + part * (now.real() - before.real());
            if (real > most) {
                most = real;
                hz = (bin - 1 + part) * step;
            }
        }
        before = now;
    }
    return {-20 * std::log10(std::max(most, 1e-15)), hz};
}

double openMicrophones(int count) {
    return 10 * std::log10(std::max(count, 1));
}

} // namespace loom::acoustics
