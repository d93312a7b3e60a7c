#include "dsp/long_matrix.h"
#include <algorithm>

namespace loom::dsp {

LongMatrix::LongMatrix(std::size_t inputs, std::size_t outputs, int block)
    : inputs_(inputs), outputs_(outputs), block_(static_cast<std::size_t>(block)), head_(inputs, outputs, block) {}

void LongMatrix::set(std::size_t input, std::size_t output, std::span<const float> taps) {
    const auto first = std::min(taps.size(), block_ * ratio);
    head_.set(input, output, taps.first(first));
    if (taps.size() > first && !tail_) {
        tail_ = std::make_unique<LongMatrix>(inputs_, outputs_, static_cast<int>(block_ * ratio));
        gathered_.assign(inputs_, std::vector<float>(block_ * ratio));
        rest_.assign(outputs_, std::vector<float>(block_ * ratio));
    }
    if (tail_)
        tail_->set(input, output, taps.subspan(first));
}

void LongMatrix::process(const float* const* in, float* const* out) {
    head_.process(in, out);
    if (!tail_)
        return;
    const auto from = part_ * block_;
    for (std::size_t i = 0; i < gathered_.size(); ++i)
        in[i] ? void(std::copy_n(in[i], block_, gathered_[i].data() + from))
              : void(std::fill_n(gathered_[i].data() + from, block_, 0.0f));
    for (std::size_t o = 0; o < rest_.size(); ++o)
        for (std::size_t i = 0; i < block_; ++i)
            out[o][i] += rest_[o][from + i];
    if (++part_ < ratio)
        return;
    part_ = 0;
    std::vector<const float*> past;
    std::vector<float*> next;
    for (const auto& g : gathered_)
        past.push_back(g.data());
    for (auto& r : rest_)
        next.push_back(r.data());
    tail_->process(past.data(), next.data());
}

} // namespace loom::dsp
