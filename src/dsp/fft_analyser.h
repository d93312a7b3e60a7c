// A running spectrum of fine lines, for the eye.
#pragma once
#include "dsp/real_fft.h"
#include <atomic>
#include <vector>

namespace loom::dsp {

// Hann-windowed FFT of 8192 samples, anew every 2048; shown at `points` frequencies from 20 Hz to 20 kHz in equal steps
// of pitch, each the strongest line near it. A full-scale sine reads 0 dB. Only the constructor allocates.
class FftAnalyser {
  public:
    static constexpr int points = 240, length = 8192, hop = 2048;
    explicit FftAnalyser(double rate);
    static double pointHz(int point); // 20 * 1000^(point / (points - 1))
    // Any number of samples; `averageSeconds` (0: none) is the time constant of the power shown.
    void process(const float* x, int frames, double averageSeconds);
    float levelDb(int point) const { // any thread
        return shown_[static_cast<std::size_t>(point)].load(std::memory_order_relaxed);
    }

  private:
    void measure(double averageSeconds);
    double rate_;
    RealFft fft_;
    std::vector<float> window_, past_;
    std::vector<double> powers_;
    std::vector<std::pair<int, int>> lines_; // first and last line of a point
    std::vector<std::atomic<float>> shown_;
    int at_ = 0, fresh_ = 0;
};

} // namespace loom::dsp
