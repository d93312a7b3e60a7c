// Test signals, one sample at a time, without allocation.
#pragma once
#include "dsp/units.h"
#include <cstdint>

namespace loom::dsp {

// White noise, uniform in -1..1 (RMS -4.77 dBFS). xorshift64*: Vigna, ACM TOMS 42 (2016).
class WhiteNoise {
  public:
    explicit WhiteNoise(std::uint64_t seed = 0x9E3779B97F4A7C15ull) : state_(seed | 1) {}
    double step() {
        state_ ^= state_ >> 12;
        state_ ^= state_ << 25;
        state_ ^= state_ >> 27;
        const std::uint64_t bits = (state_ * 0x2545F4914F6CDD1Dull) >> 11;
        return static_cast<double>(bits) * (2.0 / 9007199254740992.0) - 1.0;
    }

  private:
    std::uint64_t state_;
};

// Pink noise, -3 dB per octave within 0.05 dB above 10 Hz at 44.1 kHz. Filter by P. Kellet, published on the
// music-dsp list 1999 ("refined method"). Peaks stay within -1..1.
class PinkNoise {
  public:
    explicit PinkNoise(std::uint64_t seed = 77) : white_(seed) {}
    double step() {
        const double w = white_.step();
        b0_ = 0.99886 * b0_ + w * 0.0555179;
        b1_ = 0.99332 * b1_ + w * 0.0750759;
        b2_ = 0.96900 * b2_ + w * 0.1538520;
        b3_ = 0.86650 * b3_ + w * 0.3104856;
        b4_ = 0.55000 * b4_ + w * 0.5329522;
        b5_ = -0.7616 * b5_ - w * 0.0168980;
        const double pink = b0_ + b1_ + b2_ + b3_ + b4_ + b5_ + b6_ + w * 0.5362;
        b6_ = w * 0.115926;
        return pink * 0.16;
    }

  private:
    WhiteNoise white_;
    double b0_ = 0, b1_ = 0, b2_ = 0, b3_ = 0, b4_ = 0, b5_ = 0, b6_ = 0;
};

// Sine by accumulated phase; a change of frequency keeps the phase.
class Sine {
  public:
    double step(double hz, double rate) {
        const double value = std::sin(2.0 * pi * phase_);
        phase_ += hz / rate;
        phase_ -= std::floor(phase_);
        return value;
    }

  private:
    double phase_ = 0;
};

} // namespace loom::dsp
