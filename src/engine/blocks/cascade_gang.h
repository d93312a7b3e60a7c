// Blocks whose sound is a chain of second-order sections on each channel: high-pass, low-pass, equaliser, tone ...
#pragma once
#include "dsp/lane_cascade.h"
#include "engine/blocks/common.h"

namespace loom::engine {

class CascadeKernel : public Kernel {
  public:
    CascadeKernel(const ParamTable& t, const std::vector<double>& v, double rate, int channels)
        : Kernel(t, v, rate), cascades_(static_cast<std::size_t>(channels)) {}
    dsp::Cascade& cascade(int channel) { return cascades_[static_cast<std::size_t>(channel)]; }

  protected:
    std::vector<dsp::Cascade> cascades_;
};

class CascadeGang final : public Gang {
  public:
    void assign(const std::array<GangLane, laneCount>& lanes) override {
        for (int l = 0; l < laneCount; ++l)
            if (const auto& lane = lanes[static_cast<std::size_t>(l)]; lane.kernel) {
                cascades_.assign(l, &static_cast<CascadeKernel*>(lane.kernel)->cascade(lane.channel));
            }
    }
    void release() noexcept override { cascades_.release(); }
    void process(const float* in, float* out, int frames) noexcept override { cascades_.process(in, out, frames); }

  private:
    dsp::LaneCascade cascades_;
};

inline void declareCascade(BlockKind& k) {
    k.flow = Flow::ganged;
    k.family = "cascade";
    k.gang = [] { return std::make_unique<CascadeGang>(); };
}

} // namespace loom::engine
