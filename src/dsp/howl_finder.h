// Finding the note at which a sound system rings.
#pragma once
#include "dsp/real_fft.h"
#include <array>
#include <vector>

namespace loom::dsp {

// Looks at a spectrum of 4096 samples every 1024. A ringing note is a line far above what lies beside it and above its
// own harmonics, that grows, or stands still at a high level: peak-to-neighbouring and peak-to-harmonic power ratio and
// persistence, as in T. van Waterschoot, M. Moonen, "Fifty years of acoustic feedback control", Proc. IEEE 99 (2011). A
// steady pure tone of any other origin looks the same. Only the constructor allocates.
class HowlFinder {
  public:
    static constexpr int length = 4096, hop = 1024;
    explicit HowlFinder(double rate);
    struct Howl {
        double hz = 0, levelDb = 0; // 0 Hz: nothing rings
    };
    // Any number of samples. What was found in the newest spectrum, if one was made; `sensitivityDb` is how far a line
    // must stand out.
    Howl process(const float* x, int frames, double sensitivityDb);

  private:
    Howl look(double sensitivityDb);
    bool standsOut(int line, double sensitivityDb) const;
    double level(int line) const { return levels_[static_cast<std::size_t>(line)]; }
    struct Candidate {
        int line = 0, seen = 0;
        double first = 0, last = 0, least = 0, most = 0; // dB
    };
    double rate_;
    RealFft fft_;
    std::vector<float> window_, past_;
    std::vector<double> levels_; // dB
    std::array<Candidate, 8> candidates_{};
    int at_ = 0, fresh_ = 0;
};

} // namespace loom::dsp
