// Taking the sound of loudspeakers out of a microphone.
#pragma once
#include "dsp/lanes.h"
#include "dsp/real_fft.h"
#include <array>
#include <cmath>
#include <vector>

namespace loom::dsp {

inline constexpr int echoBlock = 256;             // samples between two looks at the room
inline constexpr int echoLatency = 2 * echoBlock; // of what comes out
inline constexpr std::size_t echoBins = 272;      // 257 in use, rounded up to registers

// What goes to the loudspeakers, as spectra of the last blocks; one for all microphones of a room.
class EchoReference {
  public:
    explicit EchoReference(int partitions);
    void push(const float* block); // echoBlock samples
    int partitions() const { return partitions_; }
    // Spectrum `age` blocks old: real parts, imaginary parts, powers. Where nothing sounded it is not there.
    const float* spectrum(int age) const { return spectra_.get() + at(age) * 3 * echoBins; }
    bool sounds(int age) const { return sounds_[at(age)]; }
    double level() const { return level_; } // mean square of the newest block

  private:
    std::size_t at(int age) const;

    int partitions_, newest_ = 0;
    SplitFft fft_;
    AlignedFloats spectra_;
    std::vector<char> sounds_;
    AlignedFloats time_;
    double level_ = 0;
};

// One microphone. The path from loudspeaker to microphone is found by a Kalman filter in the frequency domain, with the
// uncertainty of every bin of every partition as its state: G. Enzner, P. Vary, "Frequency-domain adaptive Kalman
// filter for acoustic echo control in hands-free telephones", Signal Processing 86 (2006); partitioned: F. Kuech, E.
// Mabande, G. Enzner, "State-space architecture of the partitioned-block-based acoustic echo controller", ICASSP 2014.
// It slows by itself while somebody speaks in the room. What the linear filter leaves is turned down in each band by as
// much as it resembles the echo (a Wiener gain).
//
// A block's work comes in two parts, so that it can be spread over time: filter(), then adapt() over all partitions
// before the next filter(). Only the constructor allocates.
class EchoCanceller {
  public:
    explicit EchoCanceller(int partitions);
    // A block of the microphone; `out` is the block before last without its echo. suppressionDb >= 0: most that is left
    // after the filter may be turned down by.
    void filter(const EchoReference& reference, const float* microphone, float* out, double suppressionDb);
    void adapt(const EchoReference& reference, int from, int to);
    // Echo return loss enhancement in dB, while the reference sounds.
    double erleDb() const { return ratio(echo_, heard_); }

  private:
    static double ratio(double a, double b);
    void prepareStep();
    void constrain(float* w);
    float share(int p) const;
    void noticeChange(bool sounding);
    void suppress(const EchoReference& reference, double suppressionDb, float* out);
    float* weights(int p) { return weights_.get() + static_cast<std::size_t>(p) * 2 * echoBins; }
    float* doubt(int p) { return doubts_.get() + static_cast<std::size_t>(p) * echoBins; }

    int partitions_, block_ = 0;
    SplitFft fft_;
    AlignedFloats weights_, doubts_;             // filter; its uncertainty
    AlignedFloats estimate_, error_, certainty_; // spectra of this block; sum of P |X|^2
    AlignedFloats noise_, step_, renew_;         // of each bin
    AlignedFloats time_, window_, echoTime_, errorTime_, spectrum_, echoSpectrum_, overlap_;
    AlignedFloats echoDecay_, leak_, gain_, errorSmooth_;
    static constexpr std::size_t bands = 16, bandBins = 16;
    struct Likeness { // of error and estimate, in a band
        float ey = 0, yy = 0, ee = 0;
        float coherence() const { return -ey / std::sqrt(ee * yy + 1e-20f); }
    };
    int believeIn_ = 0; // blocks until a change is believed again
    std::array<Likeness, bands> likeness_{};
    float leakAll_ = 1;
    double echo_ = 0, heard_ = 0;
    float lastMicrophone_[echoBlock]{};
};

} // namespace loom::dsp
