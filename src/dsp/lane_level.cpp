#include "dsp/lane_level.h"
#include <algorithm>
#include <cmath>

namespace loom::dsp {
namespace {

// Magnitudes are compared as whole numbers, which order as floats do where the sign is gone: every machine has that
// in one instruction.
template <int B> LOOM_INLINE void levelsBody(const float* bundle, int frames, float* peaks, float* powers) {
    using E = EightF<B>;
    using I = typename Registers<B>::I;
    I peak[2][E::n]{};
    E power[2] = {E::load(powers), E::all(0)};
    for (int j = 0; j < E::n; ++j)
        peak[0][j] = reinterpret_cast<const typename Registers<B>::IAt*>(peaks)[j];
    const auto add = [&](int i, int half) __attribute__((always_inline)) {
        const E x = E::load(bundle + i * laneCount);
        for (int j = 0; j < E::n; ++j) {
            const I size = reinterpret_cast<I>(x.v[j]) & 0x7fffffff;
            peak[half][j] = size > peak[half][j] ? size : peak[half][j];
            power[half].v[j] += x.v[j] * x.v[j];
        }
    };
    int i = 0;
    for (; i + 2 <= frames; i += 2) {
        add(i, 0);
        add(i + 1, 1);
    }
    for (; i < frames; ++i)
        add(i, 0);
    for (int j = 0; j < E::n; ++j) {
        peak[0][j] = peak[1][j] > peak[0][j] ? peak[1][j] : peak[0][j];
        power[0].v[j] += power[1].v[j];
    }
    for (int j = 0; j < E::n; ++j)
        reinterpret_cast<typename Registers<B>::IAt*>(peaks)[j] = peak[0][j];
    power[0].store(powers);
}

template <int B> LOOM_INLINE void cleanBody(float* bundle, int frames) {
    using E = EightF<B>;
    const E most = E::all(1000), least = E::all(-1000);
    for (int i = 0; i < frames; ++i) {
        E x = E::load(bundle + i * laneCount);
        for (int j = 0; j < E::n; ++j) {
            auto y = x.v[j] > most.v[j] ? most.v[j] : x.v[j];
            y = y < least.v[j] ? least.v[j] : y;
            const auto zero = x.v[j] - x.v[j]; // 0 for what is finite
            x.v[j] = zero == typename E::F{} ? y : typename E::F{};
        }
        x.store(bundle + i * laneCount);
    }
}

template <int B>
LOOM_INLINE void rampBody(const float* in, const float* from, const float* to, float* out, int frames) {
    using E = EightF<B>;
    E gain = E::load(from), step = E::load(to);
    for (int j = 0; j < E::n; ++j)
        step.v[j] = (step.v[j] - gain.v[j]) / (typename E::F{} + static_cast<float>(frames));
    for (int i = 0; i < frames; ++i) {
        E x = E::load(in + i * laneCount);
        for (int j = 0; j < E::n; ++j) {
            gain.v[j] += step.v[j];
            x.v[j] *= gain.v[j];
        }
        x.store(out + i * laneCount);
    }
}

// Four samples and sixteen outputs at a time, so that a gain and a sample, once loaded, serve several products.
template <int B, int Bundles>
LOOM_INLINE void mixSome(const float* const* in, int inLanes, float* const* out, const float* gains, int outLanes,
                         int i, int n) {
    using E = EightF<B>;
    E sum[4][Bundles];
    for (int s = 0; s < 4; ++s)
        for (int h = 0; h < Bundles; ++h)
            sum[s][h] = E::all(0);
    for (int k = 0; k < inLanes; ++k) {
        const float* x = in[k / laneCount] + i * laneCount + k % laneCount;
        E g[Bundles];
        for (int h = 0; h < Bundles; ++h)
            g[h] = E::load(gains + k * outLanes + h * laneCount);
#pragma GCC unroll 4
        for (int s = 0; s < 4; ++s)
            if (s < n)
                for (int h = 0; h < Bundles; ++h)
                    for (int j = 0; j < E::n; ++j)
                        sum[s][h].v[j] += g[h].v[j] * x[s * laneCount];
    }
    for (int s = 0; s < n; ++s)
        for (int h = 0; h < Bundles; ++h)
            sum[s][h].store(out[h] + (i + s) * laneCount);
}

template <int B>
LOOM_INLINE void mixBody(const float* const* in, int inLanes, float* const* out, int outLanes, const float* gains,
                         int frames) {
    for (int o = 0; o < outLanes; o += 2 * laneCount)
        for (int i = 0; i < frames; i += 4) {
            const bool two = outLanes - o > laneCount;
            float* const* to = out + o / laneCount;
            if (two && i + 4 <= frames)
                mixSome<B, 2>(in, inLanes, to, gains + o, outLanes, i, 4);
            else if (i + 4 <= frames)
                mixSome<B, 1>(in, inLanes, to, gains + o, outLanes, i, 4);
            else if (two)
                mixSome<B, 2>(in, inLanes, to, gains + o, outLanes, i, frames - i);
            else
                mixSome<B, 1>(in, inLanes, to, gains + o, outLanes, i, frames - i);
        }
}

LOOM_WIDE(mixSteady, mixBody,
          (const float* const* in, int inLanes, float* const* out, int outLanes, const float* gains, int frames),
          (in, inLanes, out, outLanes, gains, frames))

} // namespace

LOOM_WIDE(levelsOf, levelsBody, (const float* bundle, int frames, float* peaks, float* powers),
          (bundle, frames, peaks, powers))
LOOM_WIDE(cleanLanes, cleanBody, (float* bundle, int frames), (bundle, frames))
LOOM_WIDE(rampLanes, rampBody, (const float* in, const float* from, const float* to, float* out, int frames),
          (in, from, to, out, frames))

// Peak and sum of squares, four samples side by side, twice.
LOOM_HOT void levelOf(const float* x, int frames, float& peak, float& power) {
    typedef float Wide __attribute__((vector_size(16)));
    Wide peaks[2]{}, powers[2]{};
    int i = 0;
    for (; i + 8 <= frames; i += 8)
        for (int half = 0; half < 2; ++half) {
            Wide v;
            std::memcpy(&v, x + i + 4 * half, sizeof v);
            const Wide size = v > -v ? v : -v;
            peaks[half] = size > peaks[half] ? size : peaks[half];
            powers[half] += v * v;
        }
    for (; i < frames; ++i) {
        peak = std::max(peak, std::abs(x[i]));
        power += x[i] * x[i];
    }
    for (int k = 0; k < 4; ++k) {
        peak = std::max({peak, peaks[0][k], peaks[1][k]});
        power += powers[0][k] + powers[1][k];
    }
}

void mixLanes(const float* const* in, int inLanes, float* const* out, int outLanes, const float* gains,
              const float* slopes, int frames) {
    mixSteady(in, inLanes, out, outLanes, gains, frames);
    if (!slopes)
        return;
    alignas(64) float moving[bundleSize];
    for (int o = 0; o < outLanes; o += laneCount) { // the moving part is mixed apart and grows sample by sample
        for (int i = 0; i < frames; ++i)
            for (int l = 0; l < laneCount; ++l) {
                float sum = 0;
                for (int k = 0; k < inLanes; ++k)
                    sum += in[k / laneCount][i * laneCount + k % laneCount] * slopes[k * outLanes + o + l];
                moving[i * laneCount + l] = sum * static_cast<float>(i + 1);
            }
        for (int i = 0; i < frames * laneCount; ++i)
            out[o / laneCount][i] += moving[i];
    }
}

} // namespace loom::dsp
