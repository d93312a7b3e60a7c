// What can happen to rules, listed for people: everything that wakes some, and what else is there to wake them.
#pragma once
#include "model/rule.h"
#include "rules/signal.h"

namespace loom::project {

struct Occasion {
    std::string group, label; // "Walls", "Tern | Plover wall becomes open"
    Clause trigger{};
    std::vector<std::string> rules{}; // that it wakes, from top to bottom
};
// Walls, buttons, knobs, lines, mutes and cues always; levels, clocks, scenes, devices and single contacts where a rule
// waits for them, or where `words` are typed that they have. Group by group.
std::vector<Occasion> occasionsOf(const Project& project, const std::string& words = "");
// Whether two triggers mean the same moment, whatever time it has to last.
bool sameOccasion(const Clause& a, const Clause& b);

} // namespace loom::project
