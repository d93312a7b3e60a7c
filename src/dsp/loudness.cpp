#include "dsp/loudness.h"

namespace loom::dsp {

KWeighting::KWeighting(double rate) {
    {
        const double k = std::tan(pi * 1681.974450955533 / rate), q = 0.7071752369554196;
        const double vh = std::pow(10.0, 3.999843853973347 / 20), vb = std::pow(vh, 0.4996667741545416);
        const double a0 = 1 + k / q + k * k;
        shelf_ = {(vh + vb * k / q + k * k) / a0, 2 * (k * k - vh) / a0, (vh - vb * k / q + k * k) / a0,
                  2 * (k * k - 1) / a0, (1 - k / q + k * k) / a0};
    }
    const double k = std::tan(pi * 38.13547087602444 / rate), q = 0.5003270373238773;
    const double a0 = 1 + k / q + k * k;
    highPass_ = {1, -2, 1, 2 * (k * k - 1) / a0, (1 - k / q + k * k) / a0};
}

double KWeighting::power(const float* x, int frames) {
    double sum = 0;
    for (int i = 0; i < frames; ++i) {
        const double y = b_.step(highPass_, a_.step(shelf_, x[i]));
        sum += y * y;
    }
    if (!std::isfinite(sum)) { // a broken input must not stay in the filters
        a_ = b_ = {};
        return 0;
    }
    return sum / frames;
}

double loudnessFromPower(double power) {
    return power > 0 ? -0.691 + 10 * std::log10(power) : silenceDb;
}

} // namespace loom::dsp
