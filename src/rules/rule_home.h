// Which processor a rule runs on, and which device knows what.
#pragma once
#include "rules/rule_book.h"
#include <set>

namespace loom::project {

bool runsRules(const Device& device); // whether it is a processor on the network
struct RuleHome {
    std::string device{};           // "": no processor is there
    std::set<std::string> others{}; // whose signals it needs over the line
};
// The processor that stands in its room; else the one that it sets most of, or has ports of the room; else the first.
RuleHome homeOf(const Project& project, const Rule& rule);
RuleHome homeOf(const Project& project, const Scene& scene);
// What a processor runs by itself.
RuleShare shareOf(const Project& project, const std::string& device);
// Every path that a rule speaks of; those of its scenes and scripts too.
std::set<std::string> pathsOf(const Project& project, const Rule& rule);

// Who tells of a signal and takes what is set of it: its device; of a wall the processor on which its latch hangs; of a
// mute one that takes part in it; of an outside device the processor that talks to it. "": nobody, or it is a moment
// that whoever likes gives.
std::string tellerOf(const Project& project, const Signal& signal);
// The processor that talks to an outside device. "": there is none.
std::string processorOf(const Project& project, const OutsideDevice& device);

} // namespace loom::project
