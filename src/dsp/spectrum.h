// Third-octave levels of a stretch of sound, for the eye.
#pragma once
#include <memory>
#include <span>
#include <vector>

namespace loom::dsp {

// Exact mid-band frequencies 25 Hz .. 20 kHz, base ten (IEC 61260-1): 1000 * 10^(n/10), n = -16..13.
const std::vector<double>& thirdOctaveCentres();

// Sums the power of a Hann-windowed FFT into third octaves; a full-scale sine reads 0 dB in its band (dBFS as in
// AES17: full scale is the sine's RMS). The display filter is not an IEC class filter: bands are cut off sharply.
class ThirdOctaveSpectrum {
  public:
    explicit ThirdOctaveSpectrum(double rate, int size = 16384);
    ~ThirdOctaveSpectrum();
    int size() const;
    // samples: the newest size() samples; result: one dB value a band, silenceDb where there is nothing.
    std::vector<double> measure(std::span<const float> samples);

  private:
    struct Plan;
    std::unique_ptr<Plan> plan_;
};

} // namespace loom::dsp
