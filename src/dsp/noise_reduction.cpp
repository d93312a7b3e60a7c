#include "dsp/noise_reduction.h"
#include "dsp/units.h"
#include <algorithm>

namespace loom::dsp {
namespace {

constexpr float smoothing = 0.15f;
constexpr float leastIsLow = 2.2f; // by which the least of such a power lies under the mean of steady noise
constexpr double windowSeconds = 0.25;
constexpr float lastShare = 0.97f; // of the last spectrum in what is expected of this one

constexpr int settling = 15; // spectra

} // namespace

NoiseReduction::NoiseReduction(double rate)
    : smooth_(spectralBins), least_(spectralBins), noise_(spectralBins), clean_(spectralBins),
      blocksAWindow_(std::max(1, static_cast<int>(windowSeconds * rate / spectralHop))) {
    for (int w = 0; w < windows; ++w)
        past_.emplace_back(spectralBins);
}

void NoiseReduction::process(const float* in, float* out, int frames, double reductionDb) {
    spectra_.process(in, out, frames, [&](float* re, float* im) { change(re, im, reductionDb); });
}

void NoiseReduction::change(float* re, float* im, double reductionDb) {
    const auto floor = static_cast<float>(gainFromDb(-reductionDb));
    if (++block_ == blocksAWindow_) {
        block_ = 0;
        newest_ = (newest_ + 1) % windows;
    }
    double before = 1e-20, after = 1e-20;
    for (std::size_t k = 0; k < spectralBins; ++k) {
        const float power = re[k] * re[k] + im[k] * im[k];
        smooth_[k] += std::max(smoothing, 1.0f / static_cast<float>(heard_ + 1)) * (power - smooth_[k]);
        auto& here = past_[static_cast<std::size_t>(newest_)];
        if (heard_ < settling) // one spectrum says little about a mean
            for (auto& p : past_)
                p[k] = 1e30f;
        here[k] = block_ == 0 || heard_ < settling ? smooth_[k] : std::min(here[k], smooth_[k]);
        float least = here[k];
        for (const auto& p : past_)
            least = std::min(least, p[k]);
        noise_[k] = leastIsLow * least + 1e-12f;
        const float posterior = power / noise_[k];
        const float prior = lastShare * clean_[k] / noise_[k] + (1 - lastShare) * std::max(0.0f, posterior - 1);
        const float gain = std::max(floor, prior / (1 + prior));
        clean_[k] = gain * gain * power;
        before += static_cast<double>(power);
        after += static_cast<double>(clean_[k]);
        re[k] *= gain;
        im[k] *= gain;
    }
    heard_ = std::min(heard_ + 1, settling);
    reduced_ = 10 * std::log10(after / before);
}

} // namespace loom::dsp
