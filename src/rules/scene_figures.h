// What a scene does to its room: how much louder it gets, and what is left before feedback.
#pragma once
#include "model/project.h"
#include <optional>
#include <stop_token>

namespace loom::project {

struct SceneFigures {
    std::string space{};                        // its name; "": it is of no one space, or nothing is known of it
    std::optional<double> level{}, levelThen{}; // dB(A) at the seats as it is designed, and with the scene
    std::optional<double> spare{}, spareThen{}; // dB up to ringing, of the worst microphone
    std::string microphone{};                   // that one, with the scene
    struct Twice { // somebody whom two microphones bring to the same loudspeakers with the scene
        std::string talker, first, second;
        double lower = 0; // dB by which the second is the quieter
    };
    std::vector<Twice> twice{};
};
// Somebody is heard twice where a second microphone brings him less than 9.5 dB below the first (three times its
// distance: the three-to-one rule: Burroughs, Microphones: Design and Application, 1974) and no automatic mixer holds
// one of both back. Levels and ringing: by the change of the loudest way from each microphone to each loudspeaker, 250
// Hz to 4 kHz, against what rooms/predict.h says of the design, which is set to its target.
SceneFigures figuresOf(const Project& project, const Scene& scene, std::stop_token stop = {});

} // namespace loom::project
