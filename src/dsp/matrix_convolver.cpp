#include "dsp/matrix_convolver.h"
#include "dsp/dispatch.h"
#include <algorithm>
#include <cmath>

namespace loom::dsp {
namespace {

constexpr float silence = 1e-8f;

// sum += x * h, rows of real parts and of imaginary parts.
LOOM_HOT void addProduct(const float* x, const float* h, float* sum, std::size_t row) {
    const float *xr = x, *xi = x + row, *hr = h, *hi = h + row;
    float *re = sum, *im = sum + row;
    for (std::size_t b = 0; b < row; ++b) {
        re[b] += xr[b] * hr[b] - xi[b] * hi[b];
        im[b] += xr[b] * hi[b] + xi[b] * hr[b];
    }
}

} // namespace

MatrixConvolver::MatrixConvolver(std::size_t inputs, std::size_t outputs, int block)
    : inputs_(inputs), outputs_(outputs), block_(static_cast<std::size_t>(block)), row_((block_ + 16) / 16 * 16),
      fft_(2 * block), responses_(inputs * outputs), lines_(inputs), time_(2 * block_), sum_(2 * row_) {
    for (auto& l : lines_) {
        l.spectra = AlignedFloats(2 * row_);
        l.before.assign(block_, 0.0f);
        l.sounds.assign(1, 0);
    }
}

void MatrixConvolver::set(std::size_t input, std::size_t output, std::span<const float> taps) {
    auto& r = responses_[at(input, output)];
    r.partitions = (taps.size() + block_ - 1) / block_;
    r.spectra = AlignedFloats(r.partitions * 2 * row_);
    const float scale = 1.0f / static_cast<float>(2 * block_); // the transforms' own factor
    for (std::size_t p = 0; p < r.partitions; ++p) {
        std::fill_n(time_.get(), 2 * block_, 0.0f);
        for (std::size_t i = 0; i < block_ && p * block_ + i < taps.size(); ++i)
            time_[i] = std::isfinite(taps[p * block_ + i]) ? taps[p * block_ + i] * scale : 0;
        float* to = r.spectra.get() + p * 2 * row_;
        fft_.forward(time_.get(), to, to + row_);
    }
    if (r.partitions > partitions_) {
        partitions_ = r.partitions;
        newest_ = 0;
        for (auto& l : lines_) {
            l.spectra = AlignedFloats(partitions_ * 2 * row_);
            l.sounds.assign(partitions_, 0);
        }
    }
}

void MatrixConvolver::process(const float* const* in, float* const* out) {
    newest_ = newest_ + 1 == partitions_ ? 0 : newest_ + 1;
    for (std::size_t i = 0; i < inputs_; ++i) {
        auto& l = lines_[i];
        std::copy_n(l.before.data(), block_, time_.get());
        bool sounds = false;
        for (std::size_t s = 0; s < block_; ++s) {
            const float v = in[i] ? in[i][s] : 0;
            l.before[s] = std::isfinite(v) ? v : 0;
            sounds = sounds || std::abs(l.before[s]) > silence;
        }
        l.sounds[newest_] = sounds || l.soundedBefore; // a partition holds two blocks
        l.soundedBefore = sounds;
        if (!l.sounds[newest_])
            continue;
        std::copy_n(l.before.data(), block_, time_.get() + block_);
        float* to = l.spectra.get() + newest_ * 2 * row_;
        fft_.forward(time_.get(), to, to + row_);
    }
    for (std::size_t o = 0; o < outputs_; ++o) {
        std::fill_n(sum_.get(), 2 * row_, 0.0f);
        for (std::size_t i = 0; i < inputs_; ++i) {
            const auto& r = responses_[at(i, o)];
            for (std::size_t p = 0; p < r.partitions; ++p) {
                const std::size_t from = (newest_ + partitions_ - p) % partitions_;
                if (lines_[i].sounds[from])
                    addProduct(lines_[i].spectra.get() + from * 2 * row_, r.spectra.get() + p * 2 * row_, sum_.get(),
                               row_);
            }
        }
        fft_.backward(sum_.get(), sum_.get() + row_, time_.get());
        std::copy_n(time_.get() + block_, block_, out[o]);
    }
}

} // namespace loom::dsp
