#include "dsp/tap_response.h"
#include <cmath>

namespace loom::dsp {

// Horner's rule from the last tap on, all frequencies side by side.
std::vector<Complex> responseOfTaps(std::span<const float> taps, const std::vector<double>& hz, double rate) {
    const std::size_t n = hz.size();
    std::vector<double> turnRe(n), turnIm(n), re(n, 0.0), im(n, 0.0);
    for (std::size_t f = 0; f < n; ++f) {
        turnRe[f] = std::cos(2 * pi * hz[f] / rate);
        turnIm[f] = -std::sin(2 * pi * hz[f] / rate);
    }
    for (std::size_t t = taps.size(); t-- > 0;)
        for (std::size_t f = 0; f < n; ++f) {
            const double was = re[f];
            re[f] = was * turnRe[f] - im[f] * turnIm[f] + static_cast<double>(taps[t]);
            im[f] = was * turnIm[f] + im[f] * turnRe[f];
        }
    std::vector<Complex> h(n);
    for (std::size_t f = 0; f < n; ++f)
        h[f] = {re[f], im[f]};
    return h;
}

} // namespace loom::dsp
