// Impulse responses as responses.
#pragma once
#include "loudspeaker/curve_file.h"

namespace loom::loudspeaker::curve {

// The response through a window around the peak, at 48 points an octave from 1 / its length (20 Hz at least) to 20 kHz
// or 0.45 of the rate; the peak is time 0. Writes the window and what it means into the notes. Error: silence.
Result<CurveReading> responseOfImpulse(const std::vector<float>& samples, double rate, CurveWindow window,
                                       const std::string& name);

} // namespace loom::loudspeaker::curve
