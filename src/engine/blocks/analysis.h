// What blocks have in common that look at sound and pass it on untouched.
#pragma once
#include "dsp/band_filters.h"
#include "engine/blocks/common.h"
#include <algorithm>

namespace loom::engine {

class AnalysisKernel : public Kernel {
  public:
    using Kernel::Kernel;

  protected:
    static void pass(Inputs in, Outputs out, int frames) noexcept {
        for (std::size_t c = 0; c < out.size(); ++c)
            std::copy_n(in[c], frames, out[c]);
    }
    static void show(std::atomic<float>& figure, double value) noexcept {
        figure.store(static_cast<float>(value), std::memory_order_relaxed);
    }
};

// Everything of such a block but its names, shape, parameters, cost and kernel.
inline void declareAnalysis(BlockKind& k) {
    k.group = Group::eyes;
    k.response = perChannel([](const Values&, double, double) { return dsp::Complex(1); });
    k.glyph = Glyph::meter;
    k.neutral = [](const Values&) { return true; };
}

inline ParamSpec weightingParam() {
    return choiceParam("weighting", "Weighting", {"none", "A", "C"});
}

// A frequency weighting at work on one channel.
class Weigher {
  public:
    explicit Weigher(double rate) : rate_(rate) {}
    void choose(dsp::Weighting w) {
        if (w != chosen_) {
            sections_ = dsp::designWeighting(chosen_ = w, rate_);
            states_ = {};
        }
    }
    void run(const float* in, float* out, int frames) {
        for (int i = 0; i < frames; ++i) {
            double y = std::isfinite(in[i]) ? std::clamp(static_cast<double>(in[i]), -1e3, 1e3) : 0;
            for (std::size_t s = 0; s < sections_.size(); ++s)
                y = states_[s].step(sections_[s], y);
            out[i] = static_cast<float>(y);
        }
    }

  private:
    double rate_;
    dsp::Weighting chosen_ = dsp::Weighting::none;
    std::array<dsp::Section, dsp::weightingSections> sections_{};
    std::array<dsp::SectionState, dsp::weightingSections> states_{};
};

} // namespace loom::engine
