// How sound goes on outside programs while devices run: along cables and networks, and through the air of rooms.
#pragma once
#include "dsp/audio_file.h"
#include "rooms/predict.h"
#include <memory>
#include <span>
#include <stop_token>

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

// What an output drives: loudspeakers with Pa at 1 m (r.m.s.) for a full-scale sine at it.
struct DrivenEnd {
    SoundEnd end;
    double most = 1; // of full scale that its amplifier gives
    std::vector<std::pair<std::string, double>> loudspeakers{};
};
std::vector<DrivenEnd> drivenEnds(const Project& project);
// What an input, or the output of an array, makes of a sound pressure: r.m.s. of its samples per Pa.
double inputPerPascal(const Project& project, const Device& microphone, const SoundEnd& end);

// One space as its microphones hear it. Responses are factors from full scale to full scale; those of voices without a
// clip from Pa at 1 m to full scale.
struct RoomSound {
    struct Source {
        SoundEnd from{};                               // an output that drives loudspeakers ...
        std::shared_ptr<const dsp::AudioClip> voice{}; // ... or what a person says, over and over
        double most = 1;                               // of full scale that its amplifier gives: clips there
        std::string name{};                            // of a person
        double levelA = 0;                             // and how loud that one speaks, dB(A) at 1 m
    };
    struct Target {
        SoundEnd end{};           // output of a network microphone, or the input another one is led to
        std::string microphone{}; // a device
        double gain = 0;          // full scale per Pa
        acoustics::Bands noise{}; // of the room, as it arrives: dB of full scale (r.m.s. 1)
    };
    std::string name;
    std::vector<Source> sources{};
    std::vector<Target> targets{};
    std::vector<std::shared_ptr<const std::vector<float>>> responses{}; // from source s to target t: s * targets + t
    const std::vector<float>& response(std::size_t source, std::size_t target) const {
        return *responses[source * targets.size() + target];
    }
    // Targets that hear the same, as the outputs of one array do: for each the first of them.
    std::vector<std::size_t> firstAlike() const;
};

// Who is there: those nearest to microphones whose input has stand-in sound, which is what they say; or everybody who
// may speak, without anything said.
enum class Voices { standIns, all };
struct RoomSoundSpec {
    double rate = 48000;
    Voices voices = Voices::standIns;
    double longest = 0.3; // s of a response at most
    int threads = 1;
};
// The loudspeakers that hang on amplifiers, the microphones that are led somewhere, and people. What a microphone makes
// of a sound pressure follows from its sensitivity and its input; with Voices::standIns, a voice reaches its own
// microphone, without the room, as loud as the stand-in says. Empty if it was stopped.
RoomSound roomSoundOf(const Project& project, const Space& space, const WallState* state, const RoomSoundSpec& spec,
                      std::stop_token stop = {});

// Level of what is said in it, r.m.s. of the A-weighted sound: of the stretches of 50 ms that are less than 30 dB below
// the loudest. 0: nothing is.
double speechLevelA(std::span<const float> samples, double rate);

} // namespace loom::project
