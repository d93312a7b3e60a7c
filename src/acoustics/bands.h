// Octave bands from 63 Hz to 8 kHz: what all predictions of the room layer are made in.
#pragma once
#include <array>
#include <cstddef>

namespace loom::acoustics {

inline constexpr std::size_t bandCount = 8;
using Bands = std::array<double, bandCount>;
inline constexpr Bands bandHz{63, 125, 250, 500, 1000, 2000, 4000, 8000};

// A-weighting at the bands' middles, dB (IEC 61672-1:2013, table 3).
inline constexpr Bands aWeighting{-26.2, -16.1, -8.6, -3.2, 0, 1.2, 1.0, -1.1};
// Spectrum of a male voice by octave relative to its A-weighted level, dB (IEC 60268-16:2011, table A.3); there is no
// speech at 63 Hz.
inline constexpr Bands speechSpectrum{-60, 2.9, 2.9, -0.8, -6.8, -12.8, -18.8, -24.8};

double decibels(double energy); // 10 lg, of at least 1e-30
double energyOf(double decibels);
Bands filled(double value);
// 10^(db / 20) within 1e-5 of itself, from a table between -200 and 60 dB: for long sums.
double quickFactor(double db);
// A-weighted level of octave band levels, dB(A).
double aWeighted(const Bands& levels);

} // namespace loom::acoustics
