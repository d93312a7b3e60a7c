// Programme loudness and true peak after ITU-R BS.1770-4, gating and windows as in EBU Tech 3341.
#pragma once
#include "dsp/loudness.h"
#include <array>
#include <vector>

namespace loom::dsp {

// Up to some channels of weight 1 (left, right, centre, mono). Only the constructor allocates. LUFS; silenceDb where
// nothing was heard yet.
class LoudnessMeter {
  public:
    LoudnessMeter(double rate, int channels);
    // 1..64 samples of each channel.
    void process(const float* const* in, int frames);
    void restart();
    double momentary() const { return over(4); }  // 400 ms
    double shortTerm() const { return over(30); } // 3 s
    // All since the start, gated at -70 LUFS and then 10 LU below what is left. Kept as a histogram of tenths.
    double integrated() const;
    // Largest magnitude between samples as well, by oversampling four times, in dBTP.
    double truePeakDb() const { return dbFromGain(peak_); }

  private:
    static constexpr int slices = 30, bins = 850; // of 100 ms; of 0.1 LU from -70 up
    static constexpr int taps = 12, phases = 4;
    double over(int count) const;
    void endSlice();
    void findPeaks(std::size_t channel, const float* x, int frames);

    std::vector<KWeighting> filters_;
    std::vector<std::array<float, 2 * taps>> past_; // for the oversampling, each sample twice
    double sum_ = 0, peak_ = 0;
    int inSlice_ = 0, sliceLength_, full_ = 0, newest_ = 0, at_ = 0;
    std::array<double, slices> powers_{};
    struct Bin {
        double power = 0;
        long count = 0;
    };
    std::vector<Bin> histogram_;
};

} // namespace loom::dsp
