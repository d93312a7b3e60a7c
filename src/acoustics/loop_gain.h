// Feedback: from loudspeakers back into microphones.
#pragma once
#include <span>

namespace loom::acoustics {

struct LoopLimit {
    double gainDb = 0; // the gain at which the loop begins to ring, over the gain that the response already holds
    double hz = 0;     // where it will
};

// The limit of a loop that has this response once round: every loudspeaker to every microphone, each with its gains,
// summed as sound pressure. A loop rings where it comes round in phase and no weaker than it was (H. Nyquist, Bell
// Syst. Tech. J. 11, 1932): the limit is the strongest point among those of phase 0. `latency` in seconds is what
// electronics add. Between bins, a fine grid (four times the length) is taken.
LoopLimit loopLimit(std::span<const float> response, double rate, double latency = 0);

// 10 lg N of the number of open microphones.
double openMicrophones(int count);

} // namespace loom::acoustics
