#include "dsp/dynamics.h"
#include <algorithm>
#include <cmath>

namespace loom::dsp {

double compressorGainDb(double level, double threshold, double ratio, double knee) {
    const double over = level - threshold, slope = 1.0 / ratio - 1.0;
    if (2 * over <= -knee)
        return 0;
    if (knee > 0 && 2 * over < knee)
        return slope * (over + knee / 2) * (over + knee / 2) / (2 * knee);
    return slope * over;
}

double expanderGainDb(double level, double threshold, double ratio, double knee, double range) {
    const double under = threshold - level, slope = ratio - 1.0;
    double gain = -slope * under;
    if (2 * under <= -knee)
        gain = 0;
    else if (knee > 0 && 2 * under < knee)
        gain = -slope * (under + knee / 2) * (under + knee / 2) / (2 * knee);
    return std::max(gain, -range);
}

double onePole(double seconds, double perSecond) {
    return seconds <= 0 ? 1.0 : 1.0 - std::exp(-1.0 / (seconds * perSecond));
}

} // namespace loom::dsp
