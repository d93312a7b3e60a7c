// A response seen through one octave.
#pragma once
#include <span>
#include <vector>

namespace loom::acoustics {

// The response through the octave filter of dsp/band_filters (IEC 61260-1 class 1) at midHz; a band that does not fit
// below rate / 2 gives zeros. Same length.
std::vector<double> octaveBand(std::span<const float> response, double midHz, double rate);

} // namespace loom::acoustics
