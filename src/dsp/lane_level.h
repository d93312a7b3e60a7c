// Levels and gains, eight lanes side by side.
#pragma once
#include "dsp/lanes.h"

namespace loom::dsp {

// Takes one channel, or each lane of a bundle, into a largest magnitude and a sum of squares.
void levelOf(const float* x, int frames, float& peak, float& power);
void levelsOf(const float* bundle, int frames, float* peaks, float* powers);

// What comes from outside must not poison the filters behind it: not a number becomes 0, and nothing exceeds 1000.
void cleanLanes(float* bundle, int frames);

// out = in * gain, the gain of each lane going straight from `from` to `to` over the frame.
void rampLanes(const float* in, const float* from, const float* to, float* out, int frames);

// Mixes bundles: out lane o = sum over i of in lane i times gains[i * outLanes + o], outLanes a multiple of eight, with
// missing lanes at gain 0. Where `slopes` is not null, each gain changes by its slope a sample (the first sample has
// gained one slope already).
void mixLanes(const float* const* in, int inLanes, float* const* out, int outLanes, const float* gains,
              const float* slopes, int frames);

} // namespace loom::dsp
