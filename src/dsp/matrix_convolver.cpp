#include "dsp/matrix_convolver.h"
#include "dsp/dispatch.h"
#include "dsp/lanes.h"
#include <algorithm>
#include <cmath>

namespace loom::dsp {
namespace {

constexpr float silence = 1e-8f;

// sum = that of x[i] * h[i], rows of real parts and of imaginary parts; row is a multiple of sixteen.
template <int B>
LOOM_INLINE void productsBody(const float* const* x, const float* const* h, std::size_t count, std::size_t row,
                              float* sum) {
    using E = EightF<B>;
    for (std::size_t b = 0; b < row; b += 2 * laneCount) {
        E re[2], im[2];
        for (int k = 0; k < 2; ++k)
            re[k] = im[k] = E::all(0);
        for (std::size_t i = 0; i < count; ++i) {
            const float *xi = x[i] + b, *hi = h[i] + b;
            for (int k = 0; k < 2; ++k) {
                const E xr = E::load(xi + k * laneCount), xm = E::load(xi + row + k * laneCount),
                        hr = E::load(hi + k * laneCount), hm = E::load(hi + row + k * laneCount);
                for (int j = 0; j < E::n; ++j) {
                    re[k].v[j] += xr.v[j] * hr.v[j];
                    re[k].v[j] -= xm.v[j] * hm.v[j];
                    im[k].v[j] += xr.v[j] * hm.v[j];
                    im[k].v[j] += xm.v[j] * hr.v[j];
                }
            }
        }
        for (int k = 0; k < 2; ++k) {
            re[k].store(sum + b + static_cast<std::size_t>(k) * laneCount);
            im[k].store(sum + row + b + static_cast<std::size_t>(k) * laneCount);
        }
    }
}
LOOM_WIDE(products, productsBody,
          (const float* const* x, const float* const* h, std::size_t count, std::size_t row, float* sum),
          (x, h, count, row, sum))

} // namespace

MatrixConvolver::MatrixConvolver(std::size_t inputs, std::size_t outputs, int block)
    : inputs_(inputs), outputs_(outputs), block_(static_cast<std::size_t>(block)), row_((block_ + 16) / 16 * 16),
      fft_(2 * block), responses_(inputs * outputs), lines_(inputs), spectra_(inputs), factors_(inputs),
      time_(2 * block_), sum_(2 * row_) {
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
        spectra_.resize(inputs_ * partitions_);
        factors_.resize(inputs_ * partitions_);
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
        std::size_t count = 0;
        for (std::size_t i = 0; i < inputs_; ++i) {
            const auto& r = responses_[at(i, o)];
            for (std::size_t p = 0; p < r.partitions; ++p) {
                const std::size_t from = (newest_ + partitions_ - p) % partitions_;
                if (!lines_[i].sounds[from])
                    continue;
                spectra_[count] = lines_[i].spectra.get() + from * 2 * row_;
                factors_[count++] = r.spectra.get() + p * 2 * row_;
            }
        }
        products(spectra_.data(), factors_.data(), count, row_, sum_.get());
        fft_.backward(sum_.get(), sum_.get() + row_, time_.get());
        std::copy_n(time_.get() + block_, block_, out[o]);
    }
}

} // namespace loom::dsp
