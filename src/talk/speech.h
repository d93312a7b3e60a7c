// Shipped speech: what people say when a conversation is tried.
#pragma once
#include "engine/result.h"
#include <vector>

namespace loom::project {

// Mono at 48 kHz, from the first word on, without pauses of more than a third of a second; r.m.s. of the A-weighted
// sound is 1 while somebody speaks, that of `farEnd` 0.1 (-20 dBFS).
struct Speech {
    std::vector<std::vector<float>> voices{};
    std::vector<float> farEnd{};
};
// From the folder with the shipped files. Error: they are not there.
Result<Speech> readSpeech(const std::string& folder);
std::string speechFolder(); // where they lie

} // namespace loom::project
