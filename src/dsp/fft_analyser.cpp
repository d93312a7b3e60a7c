#include "dsp/fft_analyser.h"
#include "dsp/dynamics.h"
#include <algorithm>

namespace loom::dsp {

FftAnalyser::FftAnalyser(double rate)
    : rate_(rate), fft_(length), window_(length), past_(length), powers_(points), lines_(points), shown_(points) {
    for (int i = 0; i < length; ++i)
        window_[static_cast<std::size_t>(i)] = static_cast<float>(0.5 - 0.5 * std::cos(2 * pi * i / length));
    const double half = std::sqrt(pointHz(1) / pointHz(0));
    for (int p = 0; p < points; ++p) {
        const auto line = [&](double hz) {
            return std::clamp(static_cast<int>(std::lround(hz * length / rate)), 1, length / 2 - 1);
        };
        lines_[static_cast<std::size_t>(p)] = {line(pointHz(p) / half), line(pointHz(p) * half)};
    }
    for (auto& s : shown_)
        s.store(static_cast<float>(silenceDb));
}

double FftAnalyser::pointHz(int point) {
    return 20 * std::pow(1000.0, static_cast<double>(point) / (points - 1));
}

void FftAnalyser::process(const float* x, int frames, double averageSeconds) {
    for (int i = 0; i < frames; ++i) {
        past_[static_cast<std::size_t>(at_)] = std::isfinite(x[i]) ? x[i] : 0;
        at_ = at_ + 1 == length ? 0 : at_ + 1;
        if (++fresh_ == hop) {
            measure(averageSeconds);
            fresh_ = 0;
        }
    }
}

void FftAnalyser::measure(double averageSeconds) {
    float* t = fft_.time();
    for (int i = 0; i < length; ++i)
        t[i] = past_[static_cast<std::size_t>((at_ + i) & (length - 1))] * window_[static_cast<std::size_t>(i)];
    fft_.forward();
    const double pull = averageSeconds > 0 ? onePole(averageSeconds, rate_ / hop) : 1;
    constexpr double scale = 16.0 / (static_cast<double>(length) * length); // a line of a sine is A N / 4
    for (std::size_t p = 0; p < powers_.size(); ++p) {
        float strongest = 0;
        for (int k = lines_[p].first; k <= lines_[p].second; ++k)
            strongest = std::max(strongest, std::norm(fft_.spectrum()[k]));
        powers_[p] += pull * (static_cast<double>(strongest) * scale - powers_[p]);
        shown_[p].store(static_cast<float>(dbFromPower(powers_[p])), std::memory_order_relaxed);
    }
}

} // namespace loom::dsp
