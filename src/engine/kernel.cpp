#include "engine/kernel.h"
#include <algorithm>
#include <cmath>

namespace loom::engine {

Kernel::Kernel(const ParamTable& table, const std::vector<double>& values, double rate)
    : params_(table, values, maxFrame / rate), rate_(rate), onParam_(table.indexOf("on")),
      wetPull_(1.0 - std::exp(-maxFrame / rate / 0.020)) {
    if (onParam_ >= 0)
        wet_ = wetMid_ = wetFrom_ = params_.target(onParam_) >= 0.5 ? 1.0 : 0.0;
    fading_ = wet_ != 1.0;
}

void Kernel::fadeIn() {
    if (onParam_ < 0)
        return;
    wet_ = wetMid_ = wetFrom_ = 0;
    fading_ = true;
}

void Kernel::advanceFade() noexcept {
    if (onParam_ < 0)
        return;
    const double goal = params_.target(onParam_) >= 0.5 ? 1.0 : 0.0;
    wetFrom_ = wet_;
    wetMid_ += wetPull_ * (goal - wetMid_);
    wet_ += wetPull_ * (wetMid_ - wet_);
    if (std::abs(goal - wet_) < 1e-5)
        wet_ = wetMid_ = goal;
    fading_ = wetFrom_ != 1.0 || wet_ != 1.0;
}

void Kernel::blend(dsp::Strided in, dsp::Strided out, int frames) const noexcept {
    const double step = (wet_ - wetFrom_) / frames;
    float *x = in.at, *y = out.at;
    for (int i = 0; i < frames; ++i, x += in.stride, y += out.stride)
        *y = static_cast<float>(*x + (wetFrom_ + step * (i + 1)) * (static_cast<double>(*y) - *x));
}

void applyGain(const float* in, float* out, double from, double to, int frames) noexcept {
    if (from == to) {
        const auto g = static_cast<float>(to);
        for (int i = 0; i < frames; ++i)
            out[i] = in[i] * g;
        return;
    }
    const double step = (to - from) / frames;
    for (int i = 0; i < frames; ++i)
        out[i] = static_cast<float>(in[i] * (from + step * (i + 1)));
}

} // namespace loom::engine
