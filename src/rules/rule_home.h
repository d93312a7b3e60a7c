// Which processor a rule runs on, and which device knows what.
#pragma once
#include "rules/rule_book.h"
#include <set>
#include <unordered_map>

namespace loom::project {

bool runsRules(const Device& device); // whether it is a processor on the network
struct RuleHome {
    std::string device{};           // "": no processor is there
    std::set<std::string> others{}; // whose signals it needs over the line
};
// The processor that stands in its room; else the one that it sets most of, or has ports of the room; else the first.
RuleHome homeOf(const Project& project, const Rule& rule);
RuleHome homeOf(const Project& project, const Scene& scene);
// The same for many: each path is looked up once.
class Homes {
  public:
    explicit Homes(const Project& project) : project_(project) {} // outlives it, and stays as it is
    RuleHome of(const Rule& rule);
    RuleHome of(const Scene& scene);
    const std::optional<Signal>& signal(const std::string& path);
    const std::string& teller(const std::string& path); // "": nobody, or there is no such signal

  private:
    struct Known {
        std::optional<Signal> signal{};
        std::optional<std::string> teller{};
    };
    Known& known(const std::string& path);
    RuleHome in(const std::string& space, const std::set<std::string>& paths);
    const Project& project_;
    std::unordered_map<std::string, Known> known_{};
};
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
