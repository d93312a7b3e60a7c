// Loudness after ITU-R BS.1770-4.
#pragma once
#include "dsp/section.h"

namespace loom::dsp {

// The two filters of the K weighting at any rate from 8 kHz: designs of the standard's 48 kHz coefficients found again
// as analogue prototypes (shelf 1681.97 Hz, +3.99984 dB, Q 0.70718; high-pass 38.135 Hz, Q 0.50033), as in libebur128.
class KWeighting {
  public:
    explicit KWeighting(double rate);
    // Mean power of a weighted stretch (1..64 samples).
    double power(const float* x, int frames);
    const Section& shelf() const { return shelf_; }
    const Section& highPass() const { return highPass_; }

  private:
    Section shelf_, highPass_;
    SectionState a_, b_;
};

// LUFS of a sum of channels' mean powers (weights applied): -0.691 + 10 log10.
double loudnessFromPower(double power);

} // namespace loom::dsp
