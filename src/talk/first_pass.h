// First pass: what a space needs for a conversation, as proposals with a reason each. Nothing is done before it is
// said.
#pragma once
#include "model/edit.h"
#include "talk/conversation.h"

namespace loom::project {

struct Proposal {
    std::string id;      // "preamp heddle/delegate-5.preamp": the same when it is worked out again
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
// What is there already is not proposed again. Values that differ from their defaults and from what a first pass set
// there (Block::marks "first-pass") were set by hand.
FirstPass firstPassOf(const Project& project, const SpaceOf& space, std::stop_token stop = {});
// Those that are ticked, as one step.
Edit takeFirstPass(const FirstPass& pass, const std::vector<std::string>& ids);

inline constexpr const char* firstPassMark = "first-pass";
inline constexpr double nominalDb = -20; // of speech at a preamplifier's output, dBFS, A-weighted

} // namespace loom::project
