#include "acoustics/decay.h"
#include <cmath>
#include <vector>

namespace loom::acoustics {

double reverberationTime(std::span<const float> response, double rate) {
    std::vector<double> left(response.size() + 1, 0.0); // energy from here on
    for (std::size_t i = response.size(); i-- > 0;)
        left[i] = left[i + 1] + static_cast<double>(response[i]) * static_cast<double>(response[i]);
    double n = 0, sx = 0, sy = 0, sxx = 0, sxy = 0;
    bool ended = false;
    for (std::size_t i = 0; i < response.size() && !ended && left[0] > 0; ++i) {
        const double db = 10 * std::log10(left[i] / left[0] + 1e-30), t = static_cast<double>(i) / rate;
        ended = db < -25;
        if (db <= -5 && !ended) {
            ++n;
            sx += t;
            sy += db;
            sxx += t * t;
            sxy += t * db;
        }
    }
    const double slope = n > 1 ? (n * sxy - sx * sy) / (n * sxx - sx * sx) : 0;
    return ended && slope < 0 ? -60 / slope : 0;
}

} // namespace loom::acoustics
