// Signals to measure with.
#pragma once
#include "dsp/noise.h"
#include "dsp/section.h"
#include <algorithm>
#include <array>

namespace loom::dsp {

// Exponential sweep from one frequency to another, over and over (A. Farina, "Simultaneous measurement of impulse
// response and distortion with a swept-sine technique", 108th AES Convention, 2000).
class Sweep {
  public:
    Sweep(double fromHz, double toHz, double rate) : from_(fromHz), to_(std::min(toHz, 0.45 * rate)), rate_(rate) {}
    double step(double seconds) {
        const double rise = std::log(to_ / from_), t = at_ / rate_;
        at_ = t + 1 / rate_ >= seconds ? 0 : at_ + 1;
        return std::sin(2 * pi * from_ * seconds / rise * (std::exp(t / seconds * rise) - 1));
    }

  private:
    double from_, to_, rate_, at_ = 0;
};

// Noise with the octave levels of male speech, each octave's intensity modulated at two frequencies with a depth of
// 0.55: the test signal of IEC 60268-16 for the direct method with two modulations an octave.
class SpeechNoise {
  public:
    explicit SpeechNoise(double rate);
    double step(); // RMS about 0.1

    static constexpr int octaves = 7; // 125 Hz to 8 kHz
    static constexpr std::array<std::array<double, 2>, octaves> modulations = {
        {{1.60, 8.00}, {1.00, 5.00}, {0.63, 3.15}, {2.00, 10.0}, {1.25, 6.25}, {0.80, 4.00}, {2.50, 12.5}}};
    static constexpr std::array<double, octaves> levelsDb = {2.9, 2.9, -0.8, -6.8, -12.8, -18.8, -24.8};

  private:
    struct Octave {
        std::array<Section, 8> sections; // 48 dB/oct on both sides: a steep spectrum must not leak into the next octave
        std::array<SectionState, 8> states;
        double gain, phase[2]{}, turn[2];
        WhiteNoise noise; // its own: neighbours made of one noise would cancel where they meet
    };
    std::array<Octave, octaves> bands_;
};

} // namespace loom::dsp
