// The frequency response of an impulse response.
#pragma once
#include "dsp/units.h"
#include <span>
#include <vector>

namespace loom::dsp {

// Sum of tap[n] e^(-2 pi i n hz / rate) at each frequency, the definition of the transfer function on the unit circle.
// Linear in taps times frequencies: 16,384 taps at 240 frequencies take some milliseconds.
std::vector<Complex> responseOfTaps(std::span<const float> taps, const std::vector<double>& hz, double rate);

} // namespace loom::dsp
