// What a networked device is told to be: its program, if it runs one, and its set-up.
#pragma once
#include "model/set_up.h"
#include "program/difference.h"
#include "schema/schema.h"
#include <set>

namespace loom::site {

struct Config {
    std::optional<engine::Program> program{};
    project::SetUp setUp{};
    bool operator==(const Config&) const = default;
};

Config designOf(const project::Device& device);
std::optional<Config> lastSentOf(const project::Device& device); // none: never sent from this project

// A checksum of what counts: without the program's revision and marks, so that both ends can tell whether they agree.
std::string fingerprint(const Config& config);
std::string checksum(const std::string& text); // FNV-1a, 64 bit: against damage, not against ill will

// Where design and device differ. A program that one side has not is one difference with the param "program"; set-up
// values have the param "setUp/ID"; both have no block. `last` may be null.
std::vector<project::Difference> differences(const Config& design, const Config& device, const Config* last);

// By what a difference is known while it lasts: "chair.eq.2.gain", "chair.eq", "threads", "program", "setUp/name".
std::string keyOf(const project::Difference& difference);
// The design with what stands under these keys taken from the device. Threads whose ends are missing are left out.
Config merged(const Config& design, const Config& device, const std::set<std::string>& keys);

} // namespace loom::site

namespace loom::schema {

LOOM_DESCRIBE(site::Config)

} // namespace loom::schema
