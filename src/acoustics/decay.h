// How sound dies away in a room.
#pragma once
#include <span>

namespace loom::acoustics {

// Reverberation time T20 in seconds of an impulse response at `rate`: a line through Schroeder's backward integral from
// -5 to -25 dB, extended to 60 dB (ISO 3382-1; M. Schroeder, J. Acoust. Soc. Am. 37, 1965). 0 if it does not fall by
// 25 dB.
double reverberationTime(std::span<const float> response, double rate);

} // namespace loom::acoustics
