#include "dsp/convolver.h"
#include "dsp/real_fft.h"
#include <algorithm>
#include <cmath>

namespace loom::dsp {
namespace {

constexpr int size = 2 * convolverBlock;
constexpr std::size_t bins = 72, spectrumFloats = 2 * bins; // 65 of them in use; real parts, then imaginary ones

const SplitFft& transform() {
    static const SplitFft fft(size);
    return fft;
}

// sum += x * h over all partitions; x runs backwards through a ring. A few bins stay in registers for all of them.
template <int B>
LOOM_INLINE void multiplyBody(const float* line, std::size_t newest, const float* taps, std::size_t partitions,
                              float* sum) {
    using E = EightF<B>;
    constexpr std::size_t step = 3 * laneCount;
    for (std::size_t b = 0; b < bins; b += step) {
        E re[3], im[3];
        for (int k = 0; k < 3; ++k) {
            re[k] = E::all(0);
            im[k] = E::all(0);
        }
        std::size_t at = newest;
        for (std::size_t p = 0; p < partitions; ++p) {
            const float *x = line + at * spectrumFloats + b, *h = taps + p * spectrumFloats + b;
            for (int k = 0; k < 3; ++k) {
                const E xr = E::load(x + k * laneCount), xi = E::load(x + bins + k * laneCount),
                        hr = E::load(h + k * laneCount), hi = E::load(h + bins + k * laneCount);
                for (int j = 0; j < E::n; ++j) {
                    re[k].v[j] += xr.v[j] * hr.v[j];
                    re[k].v[j] -= xi.v[j] * hi.v[j];
                    im[k].v[j] += xr.v[j] * hi.v[j];
                    im[k].v[j] += xi.v[j] * hr.v[j];
                }
            }
            at = at == 0 ? partitions - 1 : at - 1;
        }
        for (int k = 0; k < 3; ++k) {
            re[k].store(sum + b + static_cast<std::size_t>(k) * laneCount);
            im[k].store(sum + bins + b + static_cast<std::size_t>(k) * laneCount);
        }
    }
}

LOOM_WIDE(multiply, multiplyBody,
          (const float* line, std::size_t newest, const float* taps, std::size_t partitions, float* sum),
          (line, newest, taps, partitions, sum))

} // namespace

ConvolverTaps::ConvolverTaps(std::span<const float> taps) {
    const std::size_t count = std::clamp<std::size_t>(taps.size(), 1, maxTaps);
    partitions_ = (count + convolverBlock - 1) / convolverBlock;
    memory_ = AlignedFloats(partitions_ * spectrumFloats);
    AlignedFloats x(size);
    for (std::size_t p = 0; p < partitions_; ++p) {
        std::fill_n(x.get(), size, 0.0f);
        for (std::size_t i = 0; i < convolverBlock && p * convolverBlock + i < taps.size(); ++i) {
            const float v = taps[p * convolverBlock + i];
            x[i] = std::isfinite(v) ? v / size : 0; // the transforms' own factor
        }
        float* to = memory_.get() + p * spectrumFloats;
        transform().forward(x.get(), to, to + bins);
    }
}

const float* ConvolverTaps::spectrum(std::size_t p) const {
    return memory_.get() + p * spectrumFloats;
}

Convolver::Convolver(std::shared_ptr<const ConvolverTaps> taps) : taps_(std::move(taps)) {
    memory_ = AlignedFloats((taps_->partitions() + 2) * spectrumFloats);
    line_ = memory_.get();
    sum_ = line_ + taps_->partitions() * spectrumFloats;
    time_ = sum_ + spectrumFloats;
}

Convolver::~Convolver() = default;

void Convolver::process(const float* in, float* out, int frames) {
    for (int done = 0; done < frames;) {
        const int n = std::min(frames - done, convolverBlock - fill_);
        for (int i = 0; i < n; ++i) { // in and out may be the same
            const float x = in[done + i];
            out[done + i] = ready_[fill_ + i];
            incoming_[convolverBlock + fill_ + i] = std::isfinite(x) ? x : 0;
        }
        fill_ += n;
        done += n;
        if (fill_ == convolverBlock) {
            runBlock();
            fill_ = 0;
        }
    }
}

void Convolver::runBlock() {
    newest_ = newest_ + 1 == taps_->partitions() ? 0 : newest_ + 1;
    if (newest_ >= taps_->partitions())
        newest_ = 0;
    float* x = line_ + newest_ * spectrumFloats;
    transform().forward(incoming_, x, x + bins);
    multiply(line_, newest_, taps_->spectrum(0), taps_->partitions(), sum_);
    transform().backward(sum_, sum_ + bins, time_);
    std::copy_n(time_ + convolverBlock, convolverBlock, ready_);
    std::copy_n(incoming_ + convolverBlock, convolverBlock, incoming_);
}

} // namespace loom::dsp
