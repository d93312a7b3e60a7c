// The way of sound through the air of a space to a microphone, as an impulse response.
#pragma once
#include "rooms/space_model.h"
#include <optional>

namespace loom::project {

// Sound pressure at a microphone through image sources of the space's box, octave by octave (acoustics/band_response),
// with the loudspeaker's sensitivity at 1 m on its axis as the unit: of a loudspeaker, or of somebody (null) who sends
// the same to all sides from a point. The microphone looks `towards` (any length > 0). Below 120 Hz and above 16 kHz,
// where microphones and loudspeakers of speech systems end, it falls off by 24 dB an octave. `length` in samples.
// `only`: walls, loudspeaker and microphone are those of this octave at all frequencies, and air takes nothing.
std::vector<float> airResponse(const SpaceModel& model, const SpaceModel::Loudspeaker* from, const acoustics::Point& at,
                               const SpaceModel::Microphone& microphone, const acoustics::Point& towards, double rate,
                               std::size_t length, std::optional<std::size_t> only = {});

} // namespace loom::project
