#include "engine/solo.h"
#include <algorithm>

namespace loom::engine {

Solo::Solo(const Block& block, double rate, const Resources& resources)
    : block_(block), view_(block_),
      kernel_(view_.kind->kernel({rate, view_.shape, block_.texts, &resources}, *view_.table, view_.values)) {
    if (view_.kind->flow == Flow::flat)
        return;
    const auto bundles = [](int ports) { return static_cast<std::size_t>((ports + laneCount - 1) / laneCount); };
    inBundles_.resize(std::max<std::size_t>(1, bundles(view_.inputs())));
    outBundles_.resize(std::max<std::size_t>(1, bundles(view_.outputs())));
    for (auto& s : inBundles_) {
        s.fill(0);
        inPointers_.push_back(s.data());
    }
    for (auto& s : outBundles_) {
        s.fill(0);
        outPointers_.push_back(s.data());
    }
    if (view_.kind->flow != Flow::ganged)
        return;
    const int channels = std::max(view_.inputs(), view_.outputs());
    for (int c = 0; c < channels; c += laneCount) {
        std::array<GangLane, laneCount> lanes{};
        for (int l = 0; l < laneCount && c + l < channels; ++l)
            lanes[static_cast<std::size_t>(l)] = {kernel_.get(), c + l};
        gangs_.push_back(view_.kind->gang());
        gangs_.back()->assign(lanes);
    }
}

void Solo::run(Inputs in, Outputs out, int frames) noexcept {
    kernel_->advance(frames);
    if (view_.kind->flow == Flow::flat)
        kernel_->process(in, out, frames);
    else
        runWide(in, out, frames);
    if (kernel_->fading())
        for (std::size_t c = 0; c < std::min(in.size(), out.size()); ++c)
            kernel_->blend({const_cast<float*>(in[c]), 1}, {out[c], 1}, frames);
}

void Solo::runWide(Inputs in, Outputs out, int frames) noexcept {
    for (std::size_t c = 0; c < in.size(); ++c)
        dsp::putLane(in[c], {inBundles_[c / laneCount].data() + c % laneCount, laneCount}, frames);
    if (view_.kind->flow == Flow::wide)
        kernel_->processWide(inPointers_.data(), outPointers_.data(), frames);
    for (std::size_t g = 0; g < gangs_.size(); ++g)
        gangs_[g]->process(inPointers_[g], outPointers_[g], frames);
    for (std::size_t c = 0; c < out.size(); ++c)
        dsp::copyLane({outBundles_[c / laneCount].data() + c % laneCount, laneCount}, out[c], frames);
}

} // namespace loom::engine
