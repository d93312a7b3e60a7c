// Rules away from their design: what one device holds of them. A processor has those it runs, with what they name, and
// what it allows others from outside; every other device that a rule speaks of has what it tells and lets be set, and
// nothing else.
#pragma once
#include "model/project.h"
#include "rules/rule_book.h"
#include <map>
#include <set>

namespace loom::project {

// Between devices a signal has the path of its teller: "tern-tap/button:tern-tap"; parameters have it already.
std::string linkPath(const std::string& teller, const std::string& signal);
std::string signalOfLink(const std::string& teller, const std::string& path); // the way back

struct RuleUse {              // of a signal, by others
    bool sets = false;        // of a scene: this device leads it, and others have it recall it
    double low = 0, high = 0; // that it may be set to
    bool operator==(const RuleUse&) const = default;
};

struct RulePack {
    Project project{};                                    // what the rules name, and nothing else
    std::string as{};                                     // the id that whoever holds it has in the design
    RuleShare share{};                                    // what it runs
    std::map<std::string, RuleUse> uses{};                // its own signals that others know or set
    std::map<std::string, std::string> tells{};           // signals that others tell: by path whose
    std::map<std::string, std::set<std::string>> takes{}; // moments ("cue:x", "scene:y", "rule:z"): who waits for them
    std::map<std::string, std::set<std::string>> shows{}; // surfaces: on which devices
    std::vector<std::string> outside{};                   // outside devices that it talks to
    bool runs() const { return !share.rules.empty() || !share.scenes.empty(); }
};

// What `device` holds, as JSON text; "": nothing. Of a project whose rules are the same as those of the last call of
// this thread it costs little.
std::string packRules(const Project& project, const std::string& device);
Result<RulePack> unpackRules(const std::string& text, const ModelSource& models);
// The rules, scripts and scenes of a pack put into a project, in the place of those of their ids; rules of that device
// that it has not go. Error: it cannot be read.
Result<Done> adoptRules(Project& project, const std::string& text);
// "8 rules, 3 scenes"
std::string rulePackWords(const std::string& text);

inline constexpr const char* rulePrefix = "rule:";       // the moment at which another processor wakes one
inline constexpr const char* surfacePrefix = "surface:"; // what is done with one that another device shows
inline constexpr std::size_t longestRulePack = 3u << 20; // bytes

} // namespace loom::project
