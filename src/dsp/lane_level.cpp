#include "dsp/lane_level.h"
#include <algorithm>
#include <cmath>

namespace loom::dsp {
namespace {

template <int B> LOOM_INLINE void levelsBody(const float* sheet, int frames, float* peaks, float* powers) {
    using E = EightF<B>;
    E peak = E::all(0), power = E::all(0);
    for (int i = 0; i < frames; ++i) {
        const E x = E::load(sheet + i * laneCount);
        for (int j = 0; j < E::n; ++j) {
            const auto size = x.v[j] > -x.v[j] ? x.v[j] : -x.v[j];
            peak.v[j] = size > peak.v[j] ? size : peak.v[j];
            power.v[j] += x.v[j] * x.v[j];
        }
    }
    peak.store(peaks), power.store(powers);
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

// Four samples at a time, so that each gain is loaded once for four products.
template <int B>
LOOM_INLINE void mixBody(const float* const* in, int inLanes, float* const* out, int outLanes, const float* gains,
                         int frames) {
    using E = EightF<B>;
    for (int o = 0; o < outLanes; o += laneCount)
        for (int i = 0; i < frames; i += 4) {
            const int n = std::min(4, frames - i);
            E sum[4] = {E::all(0), E::all(0), E::all(0), E::all(0)};
            for (int k = 0; k < inLanes; ++k) {
                const E g = E::load(gains + k * outLanes + o);
                const float* x = in[k / laneCount] + i * laneCount + k % laneCount;
                if (n == 4) {
#pragma GCC unroll 4
                    for (int s = 0; s < 4; ++s)
                        for (int j = 0; j < E::n; ++j)
                            sum[s].v[j] += g.v[j] * x[s * laneCount];
                } else {
                    for (int s = 0; s < n; ++s)
                        for (int j = 0; j < E::n; ++j)
                            sum[s].v[j] += g.v[j] * x[s * laneCount];
                }
            }
            for (int s = 0; s < n; ++s)
                sum[s].store(out[o / laneCount] + (i + s) * laneCount);
        }
}

LOOM_WIDE(mixSteady, mixBody,
          (const float* const* in, int inLanes, float* const* out, int outLanes, const float* gains, int frames),
          (in, inLanes, out, outLanes, gains, frames))

} // namespace

LOOM_WIDE(levelsOf, levelsBody, (const float* sheet, int frames, float* peaks, float* powers),
          (sheet, frames, peaks, powers))
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
    alignas(64) float moving[sheetSize];
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
