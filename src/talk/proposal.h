// What a first pass proposes.
#pragma once
#include "model/edit.h"

namespace loom::project {

struct Proposal {
    std::string id;      // "preamp heddle/delegate-5": the same when it is worked out again
    std::string text;    // "Preamp of Delegate 5: 34.0 → 36.5 dB"
    std::string reason;  // "A talker at 0.42 m reaches −20 dBFS"
    std::string extent;  // "1 value", "9 blocks"
    bool byHand = false; // it would change what somebody set: not ticked
    std::function<Result<Project>(Project)> apply{};
};
struct FirstPass {
    std::string space, state, name;
    std::vector<Proposal> proposals{};
    std::vector<std::string> cannot{}; // what is missing for more, and how it is cured
};

} // namespace loom::project
