// Turning steady noise down under speech.
#pragma once
#include "dsp/overlap_add.h"

namespace loom::dsp {

// Gains of a Wiener filter by the decision-directed rule (Y. Ephraim, D. Malah, IEEE Trans. ASSP 32, 1984; P. Scalart,
// J. Vieira Filho, ICASSP 1996). The noise of each band is the least of its smoothed power in the last seconds, made up
// for being the least (R. Martin, "Noise power spectral density estimation based on optimal smoothing and minimum
// statistics", IEEE Trans. Speech Audio 9, 2001, with a fixed smoothing). spectralLatency samples late.
class NoiseReduction {
  public:
    explicit NoiseReduction(double rate);
    void process(const float* in, float* out, int frames, double reductionDb);
    double reducedDb() const { return reduced_; } // mean gain of the newest spectrum, <= 0

  private:
    void change(float* re, float* im, double reductionDb);
    static constexpr int windows = 8; // of least powers
    OverlapAdd spectra_;
    AlignedFloats smooth_, least_, noise_, clean_;
    std::vector<AlignedFloats> past_;
    int block_ = 0, blocksAWindow_, newest_ = 0;
    int heard_ = 0;
    double reduced_ = 0;
};

} // namespace loom::dsp
