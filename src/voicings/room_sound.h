// How sound goes on outside programs while devices run: along cables and networks, and through the air of rooms.
#pragma once
#include "dsp/audio_file.h"
#include "rooms/predict.h"
#include <memory>

namespace loom::project {

// A port by its device's id: "heddle", "in 1".
struct SoundEnd {
    std::string device, port;
    auto operator<=>(const SoundEnd&) const = default;
    std::string text() const { return device + "/" + port; }
};
std::optional<SoundEnd> readSoundEnd(const std::string& text); // "heddle/out 1"

// From an output to an input, as Device::feeds says it.
struct Lead {
    SoundEnd from, to;
    double gain = 1;      // factor between the two full scales
    bool network = false; // as packets of the audio network; else a cable
};
std::vector<Lead> leadsOf(const Project& project);

// Inputs to which the microphones of rooms are led by a cable: nothing else comes there.
std::vector<SoundEnd> microphoneInputs(const Project& project);
// Outputs that drive loudspeakers.
std::vector<SoundEnd> drivingEnds(const Project& project);

// One space as its microphones hear it. Responses are factors from full scale to full scale.
struct RoomSound {
    struct Source {
        SoundEnd from{};                               // an output that drives loudspeakers ...
        std::shared_ptr<const dsp::AudioClip> voice{}; // ... or what a person says, over and over
        double most = 1;                               // of full scale that its amplifier gives: clips there
    };
    std::string name;
    std::vector<Source> sources{};
    std::vector<SoundEnd> targets{};             // outputs of network microphones, inputs that others are led to
    std::vector<std::vector<float>> responses{}; // from source s to target t: s * targets + t
    const std::vector<float>& response(std::size_t source, std::size_t target) const {
        return responses[source * targets.size() + target];
    }
};
// The loudspeakers that hang on amplifiers, the microphones that are led somewhere, and the people nearest to
// microphones whose input has stand-in sound: that is what they say. It reaches its own microphone, without the room,
// as loud as the stand-in says; microphones without one are set for -24 dBFS (r.m.s.) of the nearest talker. Walls,
// loudspeakers and microphones are those of 1 kHz at all frequencies. `rate` in Hz; at most 0.3 s of each response.
// Empty if it was stopped.
RoomSound roomSoundOf(const Project& project, const Space& space, const WallState* state, double rate,
                      std::stop_token stop = {});

} // namespace loom::project
