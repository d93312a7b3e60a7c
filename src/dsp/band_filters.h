// Octave and third-octave filters, and the frequency weightings A and C.
#pragma once
#include "dsp/section.h"
#include <array>
#include <vector>

namespace loom::dsp {

inline constexpr std::size_t bandSections = 4;

// Eighth-order Butterworth band-pass whose -3.01 dB edges lie at midHz * 10^(+-0.3 / (2 bandsPerOctave)) (IEC 61260-1,
// base ten), bilinear transform with both edges prewarped. The upper edge must lie below rate / 2: false otherwise, and
// the sections pass nothing.
bool designFractionalOctave(double midHz, int bandsPerOctave, double rate, std::array<Section, bandSections>& sections);

// Exact mid-band frequencies of the octaves 31.5 Hz .. 16 kHz.
const std::vector<double>& octaveCentres();

enum class Weighting { none, a, c };
inline constexpr std::size_t weightingSections = 3;

// The weightings of IEC 61672-1, annex E: poles at 20.60, 107.7, 737.9 and 12194 Hz, 0 dB at 1 kHz; bilinear
// transform. Weighting::none passes everything.
std::array<Section, weightingSections> designWeighting(Weighting weighting, double rate);

} // namespace loom::dsp
