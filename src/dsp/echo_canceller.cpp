#include "dsp/echo_canceller.h"
#include "dsp/units.h"
#include <algorithm>
#include <cmath>

namespace loom::dsp {
namespace {

constexpr int fftSize = 2 * echoBlock;
constexpr std::size_t used = echoBlock + 1;

constexpr double silence = 1e-14; // mean square of a block of the reference

constexpr float forgetting = 0.0004f; // of the path, a block

// Y = sum of X W, and S = sum of P |X|^2, over so many partitions.
template <int B>
LOOM_INLINE void estimateBody(const float* const* x, const float* const* w, const float* const* p, int partitions,
                              float* y, float* s) {
    using E = EightF<B>;
    for (std::size_t b = 0; b < echoBins; b += 2 * laneCount) {
        E re[2], im[2], sum[2];
        for (int k = 0; k < 2; ++k)
            re[k] = im[k] = sum[k] = E::all(0);
        for (int a = 0; a < partitions; ++a) {
            const float *xa = x[a] + b, *wa = w[a] + b, *pa = p[a] + b;
            for (int k = 0; k < 2; ++k) {
                const E xr = E::load(xa + k * laneCount), xi = E::load(xa + echoBins + k * laneCount),
                        xx = E::load(xa + 2 * echoBins + k * laneCount), wr = E::load(wa + k * laneCount),
                        wi = E::load(wa + echoBins + k * laneCount), pp = E::load(pa + k * laneCount);
                for (int j = 0; j < E::n; ++j) {
                    re[k].v[j] += xr.v[j] * wr.v[j];
                    re[k].v[j] -= xi.v[j] * wi.v[j];
                    im[k].v[j] += xr.v[j] * wi.v[j];
                    im[k].v[j] += xi.v[j] * wr.v[j];
                    sum[k].v[j] += pp.v[j] * xx.v[j];
                }
            }
        }
        for (int k = 0; k < 2; ++k) {
            re[k].store(y + b + static_cast<std::size_t>(k) * laneCount);
            im[k].store(y + echoBins + b + static_cast<std::size_t>(k) * laneCount);
            sum[k].store(s + b + static_cast<std::size_t>(k) * laneCount);
        }
    }
}
LOOM_WIDE(estimate, estimateBody,
          (const float* const* x, const float* const* w, const float* const* p, int partitions, float* y, float* s),
          (x, w, p, partitions, y, s))

// One partition's step: the gain K = P X* step, W += K E, P = (1 - f)(1 - K X / 2) P + f |W|^2; where the path is to be
// learned anew, P is at least renew times the partition's share.
template <int B>
LOOM_INLINE void adaptBody(const float* x, const float* e, const float* step, const float* renew, float shape, float* w,
                           float* p) {
    using E = EightF<B>;
    for (std::size_t b = 0; b < echoBins; b += laneCount) {
        const E xr = E::load(x + b), xi = E::load(x + echoBins + b), xx = E::load(x + 2 * echoBins + b),
                er = E::load(e + b), ei = E::load(e + echoBins + b), st = E::load(step + b), fresh = E::load(renew + b);
        E wr = E::load(w + b), wi = E::load(w + echoBins + b), pp = E::load(p + b);
        for (int j = 0; j < E::n; ++j) {
            const auto mu = pp.v[j] * st.v[j];
            wr.v[j] += mu * (xr.v[j] * er.v[j] + xi.v[j] * ei.v[j]);
            wi.v[j] += mu * (xr.v[j] * ei.v[j] - xi.v[j] * er.v[j]);
            const auto kept = pp.v[j] - 0.5f * mu * xx.v[j] * pp.v[j];
            const auto then = kept + forgetting * (wr.v[j] * wr.v[j] + wi.v[j] * wi.v[j] - kept),
                       least = fresh.v[j] * shape;
            pp.v[j] = then > least ? then : least;
        }
        wr.store(w + b);
        wi.store(w + echoBins + b);
        pp.store(p + b);
    }
}
LOOM_WIDE(adaptPartition, adaptBody,
          (const float* x, const float* e, const float* step, const float* renew, float shape, float* w, float* p),
          (x, e, step, renew, shape, w, p))

constexpr float beforeAnything = 10, anew = 0.2f; // doubt of the path, as a power: at the start, after a change
constexpr float dying = 6;                        // ... and less of it the later, as a power of e over the filter
constexpr float noiseUp = 0.5f, noiseDown = 0.1f, noiseShare = 0.25f;
constexpr float changed = 0.6f; // coherence of error and estimate that means another path
constexpr float likenessPull = 0.02f;
constexpr int changeBlocks = 100;            // between two such changes
constexpr float trust = 6, leakPull = 0.05f; // what is louder than the known leak by so much is somebody in the room
constexpr float overestimate = 3;
constexpr int maxPartitions = 512;

} // namespace

EchoReference::EchoReference(int partitions)
    : partitions_(std::clamp(partitions, 1, maxPartitions)), fft_(fftSize),
      spectra_(static_cast<std::size_t>(partitions_) * 3 * echoBins), sounds_(static_cast<std::size_t>(partitions_), 0),
      time_(fftSize) {}

void EchoReference::push(const float* block) {
    std::copy_n(time_.get() + echoBlock, echoBlock, time_.get());
    const bool soundedBefore = level_ > silence;
    level_ = 0;
    for (int i = 0; i < echoBlock; ++i) {
        const float x = std::isfinite(block[i]) ? std::clamp(block[i], -100.0f, 100.0f) : 0;
        time_[static_cast<std::size_t>(echoBlock + i)] = x;
        level_ += static_cast<double>(x) * x / echoBlock;
    }
    newest_ = newest_ == 0 ? partitions_ - 1 : newest_ - 1;
    // A spectrum holds two blocks.
    if (!(sounds_[static_cast<std::size_t>(newest_)] = soundedBefore || level_ > silence))
        return;
    float* x = spectra_.get() + static_cast<std::size_t>(newest_) * 3 * echoBins;
    fft_.forward(time_.get(), x, x + echoBins);
    for (std::size_t k = 0; k < used; ++k)
        x[2 * echoBins + k] = x[k] * x[k] + x[echoBins + k] * x[echoBins + k];
}

std::size_t EchoReference::at(int age) const {
    return static_cast<std::size_t>((newest_ + age) % partitions_);
}

EchoCanceller::EchoCanceller(int partitions)
    : partitions_(std::clamp(partitions, 1, maxPartitions)), fft_(fftSize),
      weights_(static_cast<std::size_t>(partitions_) * 2 * echoBins),
      doubts_(static_cast<std::size_t>(partitions_) * echoBins), estimate_(2 * echoBins), error_(2 * echoBins),
      certainty_(echoBins), noise_(echoBins), step_(echoBins), renew_(echoBins), time_(fftSize), window_(fftSize),
      echoTime_(fftSize), errorTime_(fftSize), spectrum_(2 * echoBins), echoSpectrum_(2 * echoBins), overlap_(fftSize),
      echoDecay_(echoBins), leak_(echoBins), gain_(echoBins), errorSmooth_(echoBins) {
    // Before anything is known, the path may be as strong as the loudspeaker's own sound, and weaker the later.
    for (int p = 0; p < partitions_; ++p)
        std::fill_n(doubt(p), echoBins, beforeAnything * share(p));
    for (std::size_t k = 0; k < used; ++k) {
        leak_[k] = 0.1f;
        gain_[k] = 1;
    }
    for (std::size_t i = 0; i < fftSize; ++i)
        window_[i] = static_cast<float>(std::sin(pi * (static_cast<double>(i) + 0.5) / fftSize));
}

// Of the doubt: a room's echo dies away.
float EchoCanceller::share(int p) const {
    return std::exp(-dying * static_cast<float>(p) / static_cast<float>(partitions_));
}

double EchoCanceller::ratio(double a, double b) {
    return a > 1e-12 ? 10 * std::log10(a / std::max(b, a * 1e-9)) : 0;
}

void EchoCanceller::filter(const EchoReference& reference, const float* microphone, float* out, double suppressionDb) {
    const float *x[maxPartitions], *w[maxPartitions], *p[maxPartitions];
    int sounding = 0;
    for (int a = 0; a < partitions_; ++a)
        if (reference.sounds(a))
            x[sounding] = reference.spectrum(a), w[sounding] = weights(a), p[sounding++] = doubt(a);
    estimate(x, w, p, sounding, estimate_.get(), certainty_.get());
    fft_.backward(estimate_.get(), estimate_.get() + echoBins, time_.get());
    std::copy_n(echoTime_.get() + echoBlock, echoBlock, echoTime_.get());
    std::copy_n(errorTime_.get() + echoBlock, echoBlock, errorTime_.get());
    double heard = 0, left = 0;
    for (std::size_t i = 0; i < echoBlock; ++i) {
        const float d = std::isfinite(microphone[i]) ? std::clamp(microphone[i], -100.0f, 100.0f) : 0;
        const float y = time_[echoBlock + i] / fftSize, e = d - y;
        lastMicrophone_[i] = d;
        echoTime_[echoBlock + i] = y;
        errorTime_[echoBlock + i] = e;
        heard += static_cast<double>(d) * d;
        left += static_cast<double>(e) * e;
    }
    if (!std::isfinite(left) || left > 1e9) { // never to happen; a filter that ran away begins anew
        std::fill_n(weights_.get(), static_cast<std::size_t>(partitions_) * 2 * echoBins, 0.0f);
        std::copy_n(lastMicrophone_, echoBlock, errorTime_.get() + echoBlock);
    }
    // The error's spectrum as the filter sees it: behind a block of zeros.
    std::fill_n(time_.get(), echoBlock, 0.0f);
    std::copy_n(errorTime_.get() + echoBlock, echoBlock, time_.get() + echoBlock);
    fft_.forward(time_.get(), error_.get(), error_.get() + echoBins);
    prepareStep();
    suppress(reference, suppressionDb, out);
    if (reference.level() > 1e-8) {
        constexpr double pull = echoBlock / (48000 * 0.5);
        double after = 0;
        for (int i = 0; i < echoBlock; ++i)
            after += static_cast<double>(out[i]) * out[i];
        echo_ += pull * (heard - echo_);
        heard_ += pull * (after - heard_);
    }
}

void EchoCanceller::prepareStep() {
    for (std::size_t k = 0; k < used; ++k) {
        const float e = error_[k] * error_[k] + error_[echoBins + k] * error_[echoBins + k];
        noise_[k] += (e > noise_[k] ? noiseUp : noiseDown) * (e - noise_[k]);
        step_[k] = 1.0f / (certainty_[k] + noiseShare * noise_[k] + 1e-9f);
    }
}

void EchoCanceller::adapt(const EchoReference& reference, int from, int to) {
    constexpr int rounds = 8; // each partition is cut to its length in every eighth block
    for (int p = from; p < std::min(to, partitions_); ++p) {
        if (!reference.sounds(p)) // silence says nothing of the path
            continue;
        adaptPartition(reference.spectrum(p), error_.get(), step_.get(), renew_.get(), share(p), weights(p), doubt(p));
        if (p % rounds == block_ % rounds)
            constrain(weights(p));
    }
    if (to >= partitions_)
        ++block_;
}

void EchoCanceller::constrain(float* w) {
    std::copy_n(w, 2 * echoBins, spectrum_.get());
    fft_.backward(spectrum_.get(), spectrum_.get() + echoBins, time_.get());
    for (std::size_t i = 0; i < echoBlock; ++i) {
        time_[i] /= fftSize;
        time_[echoBlock + i] = 0;
    }
    fft_.forward(time_.get(), w, w + echoBins);
}

// A filter that fits leaves nothing that resembles its own estimate. If the path changed, the estimate itself is left,
// turned round, in most bands at once. A voice in the room looks like neither.
void EchoCanceller::noticeChange(bool sounding) {
    std::fill_n(renew_.get(), echoBins, 0.0f);
    float sum = 0, active = 0;
    for (std::size_t b = 0; b < bands; ++b) {
        float ey = 0, yy = 0, ee = 0;
        for (std::size_t k = b * bandBins; k < (b + 1) * bandBins; ++k) {
            const float yr = echoSpectrum_[k], yi = echoSpectrum_[echoBins + k];
            const float er = spectrum_[k], ei = spectrum_[echoBins + k];
            ey += er * yr + ei * yi;
            yy += yr * yr + yi * yi;
            ee += er * er + ei * ei;
        }
        Likeness& l = likeness_[b];
        if (sounding) {
            l.ey += likenessPull * (ey - l.ey);
            l.yy += likenessPull * (yy - l.yy);
            l.ee += likenessPull * (ee - l.ee);
        }
        if (l.yy > 1e-6f) {
            sum += l.coherence();
            ++active;
        }
    }
    believeIn_ = std::max(0, believeIn_ - 1);
    if (!sounding || believeIn_ > 0 || active < 3 || sum < changed * active)
        return;
    believeIn_ = changeBlocks;
    for (std::size_t b = 0; b < bands; ++b)
        if (likeness_[b].coherence() > 0.5f * changed)
            std::fill_n(renew_.get() + b * bandBins, bandBins, anew);
    for (auto& l : likeness_)
        l.ey = 0;
}

void EchoCanceller::suppress(const EchoReference& reference, double suppressionDb, float* out) {
    const auto transformed = [&](const AlignedFloats& from, AlignedFloats& to) {
        for (std::size_t i = 0; i < fftSize; ++i)
            time_[i] = from[i] * window_[i];
        fft_.forward(time_.get(), to.get(), to.get() + echoBins);
    };
    transformed(errorTime_, spectrum_);
    transformed(echoTime_, echoSpectrum_);
    const bool sounding = reference.level() > 1e-8;
    noticeChange(sounding);
    const auto least = static_cast<float>(gainFromDb(-suppressionDb));
    float eAll = 0, yAll = 0;
    for (std::size_t k = 0; k < used; ++k) {
        const float y = echoSpectrum_[k] * echoSpectrum_[k] + echoSpectrum_[echoBins + k] * echoSpectrum_[echoBins + k],
                    e = spectrum_[k] * spectrum_[k] + spectrum_[echoBins + k] * spectrum_[echoBins + k];
        echoDecay_[k] = std::max(y, 0.88f * echoDecay_[k]); // and what is longer than the filter
        errorSmooth_[k] += 0.4f * (e - errorSmooth_[k]);
        eAll += errorSmooth_[k];
        yAll += echoDecay_[k];
    }
    const auto learn = [&](float seen, float& leak) {
        leak = std::clamp(seen < trust * leak ? leak + leakPull * (seen - leak) : leak * 1.006f, 1e-5f, 2.0f);
    };
    // How much of the echo is left, learned while nobody in the room is heard.
    const bool alone = eAll < trust * leakAll_ * yAll;
    if (sounding && yAll > 1e-4f)
        learn(eAll / yAll, leakAll_);
    for (std::size_t k = 0; k < used; ++k) {
        if (sounding && alone && echoDecay_[k] > 1e-7f)
            learn(errorSmooth_[k] / echoDecay_[k], leak_[k]);
        const float residual = overestimate * leak_[k] * echoDecay_[k];
        const float wiener = std::clamp(1 - residual / (errorSmooth_[k] + 1e-12f), least, 1.0f);
        gain_[k] += (wiener > gain_[k] ? 0.6f : 0.4f) * (wiener - gain_[k]);
        spectrum_[k] *= gain_[k] / fftSize;
        spectrum_[echoBins + k] *= gain_[k] / fftSize;
    }
    fft_.backward(spectrum_.get(), spectrum_.get() + echoBins, time_.get());
    for (std::size_t i = 0; i < echoBlock; ++i) {
        out[i] = overlap_[i] + time_[i] * window_[i];
        overlap_[i] = time_[echoBlock + i] * window_[echoBlock + i];
    }
}

} // namespace loom::dsp
