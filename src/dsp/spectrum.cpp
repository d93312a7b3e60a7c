#include "dsp/spectrum.h"
#include "dsp/real_fft.h"
#include "dsp/units.h"
#include <algorithm>

namespace loom::dsp {
const std::vector<double>& thirdOctaveCentres() {
    static const std::vector<double> centres = [] {
        std::vector<double> c;
        for (int n = -16; n <= 13; ++n)
            c.push_back(1000.0 * std::pow(10.0, n / 10.0));
        return c;
    }();
    return centres;
}

struct ThirdOctaveSpectrum::Plan {
    Plan(double r, int n) : rate(r), fft(n) {}
    double rate;
    RealFft fft;
};

ThirdOctaveSpectrum::ThirdOctaveSpectrum(double rate, int size) : plan_(std::make_unique<Plan>(rate, size)) {}
ThirdOctaveSpectrum::~ThirdOctaveSpectrum() = default;
int ThirdOctaveSpectrum::size() const {
    return plan_->fft.size();
}

std::vector<double> ThirdOctaveSpectrum::measure(std::span<const float> samples) {
    const int n = plan_->fft.size();
    float* in = plan_->fft.time();
    const auto have = std::min<std::size_t>(samples.size(), n);
    std::fill_n(in, n, 0.0f);
    for (std::size_t i = 0; i < have; ++i)
        in[i] = samples[samples.size() - have + i] *
                static_cast<float>(0.5 - 0.5 * std::cos(2.0 * pi * static_cast<double>(i) / n));
    plan_->fft.forward();
    const auto& centres = thirdOctaveCentres();
    std::vector<double> power(centres.size(), 0.0);
    const double lowest = 1000.0 * std::pow(10.0, -1.65);
    for (int k = 1; k < n / 2; ++k) {
        const double hz = k * plan_->rate / n;
        if (hz < lowest)
            continue;
        const int band = static_cast<int>(std::floor(std::log10(hz / lowest) * 10.0));
        if (band >= static_cast<int>(power.size()))
            break;
        power[band] += std::norm(std::complex<double>(plan_->fft.spectrum()[k]));
    }
    // Two-sided power of the Hann window: sum w^2 = 3n/8; a full-scale sine (power 1/2) is 0 dB.
    const double scale = 4.0 / (static_cast<double>(n) * n * 3.0 / 8.0);
    for (double& p : power)
        p = dbFromPower(p * scale);
    return power;
}

} // namespace loom::dsp
