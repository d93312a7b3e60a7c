// Impulse responses as responses.
#pragma once
#include "loudspeaker/response_file.h"

namespace loom::loudspeaker::curve {

struct WindowedImpulse {
    ResponseFile curve{};
    double beforeMs = 0, afterMs = 0; // of the window that was used
};

// The response through a window around the peak, ms before and behind it (0 behind: all there is, up to 500 ms), at 48
// points an octave from 1 / its length (20 Hz at least) to 20 kHz or 0.45 of the rate; the peak is time 0. Error:
// silence, or too short.
Result<WindowedImpulse> responseOfImpulse(const std::vector<float>& samples, double rate, double beforeMs,
                                          double afterMs, const std::string& name);

} // namespace loom::loudspeaker::curve
