#include "engine/kernel.h"
#include <algorithm>
#include <cmath>

namespace loom::engine {

Kernel::Kernel(const ParamTable& table, const std::vector<double>& values, double rate)
    : params_(table, values, maxFrame / rate), rate_(rate), onParam_(table.indexOf("on")),
      wetPull_(1.0 - std::exp(-maxFrame / rate / 0.018)) {
    if (onParam_ >= 0)
        wet_ = wetMid_ = params_.target(onParam_);
}

void Kernel::fadeIn() {
    if (onParam_ >= 0)
        wet_ = wetMid_ = 0;
}

void Kernel::run(Inputs in, Outputs out, int frames) noexcept {
    params_.advance();
    if (onParam_ < 0)
        return process(in, out, frames);
    const double goal = params_.target(onParam_) >= 0.5 ? 1.0 : 0.0;
    const double from = wet_;
    wetMid_ += wetPull_ * (goal - wetMid_);
    wet_ += wetPull_ * (wetMid_ - wet_);
    if (std::abs(goal - wet_) < 1e-5)
        wet_ = wetMid_ = goal;
    process(in, out, frames);
    if (from == 1.0 && wet_ == 1.0)
        return;
    const auto both = std::min(in.size(), out.size());
    const double step = (wet_ - from) / frames;
    for (std::size_t c = 0; c < both; ++c)
        for (int i = 0; i < frames; ++i) {
            const double w = from + step * (i + 1);
            out[c][i] = static_cast<float>(in[c][i] + w * (static_cast<double>(out[c][i]) - in[c][i]));
        }
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
