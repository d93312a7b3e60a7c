// Speech transmission index (IEC 60268-16:2011).
#pragma once
#include "acoustics/bands.h"
#include <span>

namespace loom::acoustics {

inline constexpr std::size_t modulations = 14;
// Modulation frequencies in Hz, a third of an octave apart.
inline constexpr std::array<double, modulations> modulationHz{0.63, 0.8, 1.0, 1.25, 1.6, 2.0,  2.5,
                                                              3.15, 4.0, 5.0, 6.3,  8.0, 10.0, 12.5};
using Modulation = std::array<std::array<double, modulations>, bandCount>; // m per band; 63 Hz is not looked at

// The index, 0..1, of modulation transfer that room and echoes leave, with speech and noise levels per octave (dB SPL)
// at the listener: noise, masking by the band below and the threshold of hearing take their part (annex A, male voice).
double speechIndex(const Modulation& m, const Bands& speech, const Bands& noise);
// The same without regard to level: as if speech were loud enough and alone.
double speechIndex(const Modulation& m);
// Modulation transfer of an impulse response at `rate`, by octave (M. Schroeder, Acustica 49, 1981):
// |integral h^2 exp(-j 2 pi F t)| / integral h^2.
Modulation modulationOf(std::span<const float> response, double rate);
// Modulation transfer of one exponential decay alone: 1 / sqrt(1 + (2 pi F T / 13.8)^2).
double decayModulation(double hz, double reverberationTime);

} // namespace loom::acoustics
