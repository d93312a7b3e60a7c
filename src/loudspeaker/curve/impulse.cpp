#include "loudspeaker/curve/impulse.h"
#include "dsp/number.h"
#include "dsp/tap_response.h"
#include <algorithm>
#include <cmath>
#include <numbers>

namespace loom::loudspeaker::curve {

Result<WindowedImpulse> responseOfImpulse(const std::vector<float>& samples, double rate, double beforeMs,
                                          double afterMs, const std::string& name) {
    const auto peak = static_cast<std::size_t>(
        std::max_element(samples.begin(), samples.end(), [](float a, float b) { return std::abs(a) < std::abs(b); }) -
        samples.begin());
    if (samples.empty() || !(std::abs(samples[peak]) > 0))
        return Error{"is silent", name, "An impulse response has a peak."};
    const auto count = [&](double ms) { return static_cast<std::size_t>(std::lround(ms * rate / 1000)); };
    const double mostMs = 500;
    beforeMs = std::clamp(beforeMs, 0.0, mostMs);
    if (!(afterMs > 0))
        afterMs = mostMs;
    afterMs = std::min(afterMs, mostMs);
    const std::size_t from = peak - std::min(peak, count(beforeMs));
    const std::size_t to = std::min(samples.size(), peak + std::max<std::size_t>(count(afterMs), 1));
    WindowedImpulse r;
    r.beforeMs = static_cast<double>(peak - from) / rate * 1000;
    r.afterMs = static_cast<double>(to - peak) / rate * 1000;
    std::vector<float> cut(samples.begin() + static_cast<std::ptrdiff_t>(from),
                           samples.begin() + static_cast<std::ptrdiff_t>(to));
    // Tukey's window: raised cosines over what lies before the peak and over the last quarter (F. J. Harris,
    // Proc. IEEE 66 (1978), eq. 38).
    const std::size_t rise = peak - from, fall = (to - peak) / 4;
    for (std::size_t n = 0; n < rise; ++n)
        cut[n] *= static_cast<float>(
            0.5 - 0.5 * std::cos(std::numbers::pi * (static_cast<double>(n) + 0.5) / static_cast<double>(rise)));
    for (std::size_t n = 0; n < fall; ++n)
        cut[cut.size() - 1 - n] *= static_cast<float>(
            0.5 - 0.5 * std::cos(std::numbers::pi * (static_cast<double>(n) + 0.5) / static_cast<double>(fall)));
    const double lowest = std::max(20.0, 1000 / r.afterMs), highest = std::min(20000.0, 0.45 * rate);
    for (double f = lowest; f <= highest; f *= std::exp2(1.0 / 48))
        r.curve.hz.push_back(f);
    if (r.curve.hz.size() < 2)
        return Error{"is too short for a response", name, "Take a longer window or a higher rate."};
    const auto h = dsp::responseOfTaps(cut, r.curve.hz, rate);
    for (std::size_t i = 0; i < h.size(); ++i) {
        const auto timed =
            h[i] * std::polar(1.0, 2 * std::numbers::pi * r.curve.hz[i] * static_cast<double>(rise) / rate);
        double deg = std::arg(timed) * 180 / std::numbers::pi;
        if (i > 0)
            deg += 360 * std::round((r.curve.deg.back() - deg) / 360);
        r.curve.db.push_back(20 * std::log10(std::max(std::abs(timed), 1e-10)));
        r.curve.deg.push_back(deg);
    }
    return r;
}

} // namespace loom::loudspeaker::curve
