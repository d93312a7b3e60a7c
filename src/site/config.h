// What a networked device is told to be: its program, if it runs one, its set-up, the touch surfaces it
// shows, and the rules it runs.
#pragma once
#include "model/set_up.h"
#include "program/difference.h"
#include "schema/schema.h"
#include <set>

namespace loom::site {

struct Config {
    std::optional<engine::Program> program{}; // with the prints of its files (program/file_prints.h)
    project::SetUp setUp{};
    // Touch surfaces that it shows, by id, as surface/pack.h packs them. Where only what was sent is remembered their
    // prints stand for them. "": it has none of that id.
    std::map<std::string, std::string> surfaces{};
    std::string rules{}; // that it runs or serves, as rules/rule_pack.h packs them, or their print; "": none
    bool operator==(const Config&) const = default;
};

// What is remembered of the surfaces of what was sent.
std::map<std::string, std::string> surfacePrints(const Config& config);
std::string rulesPrint(const Config& config);
Config designOf(const project::Project& project, const project::Device& device);
// What it runs that left the workshop: what was last sent, or the design where nothing was.
Config preparedFrom(const project::Project& project, const project::Device& device);
std::optional<Config> lastSentOf(const project::Device& device); // none: never sent from this project

// A checksum of what counts: without the program's revision and marks, so that both ends can tell whether they agree.
std::string fingerprint(const Config& config);
std::string checksum(const std::string& text); // FNV-1a, 64 bit: against damage, not against ill will

// Where design and device differ. A program that one side has not is one difference with the param "program"; set-up
// values have the param "setUp/ID", surfaces "surface/ID", rules "rules"; these have no block. `last` may be null.
std::vector<project::Difference> differences(const Config& design, const Config& device, const Config* last);

// By what a difference is known while it lasts: "chair.eq.2.gain", "chair.eq", "threads", "program", "setUp/name".
std::string keyOf(const project::Difference& difference);
// The design with what stands under these keys taken from the device. Threads whose ends are missing are left out.
Config merged(const Config& design, const Config& device, const std::set<std::string>& keys);

} // namespace loom::site

namespace loom::schema {

LOOM_DESCRIBE(site::Config)

} // namespace loom::schema
