// Trace: from a destination back along its sound, to the place where it is lost, and why.
#pragma once
#include "program/tools.h"
#include <functional>
#include <optional>

namespace loom::project {

struct TraceStep {
    engine::PortRef at;         // a port that sound leaves, or the input of a block without outputs
    std::optional<double> db{}; // peak level there in dBFS, where it is known
    std::string name{};         // of the block, for people
    std::string lost{};         // why nothing, or much less, comes on from here; empty: it passes
};

struct Trace {
    std::vector<TraceStep> steps{}; // from the destination to where the sound begins, or as far as it can be followed
    int lostAt = -1;                // the step nearest the source at which sound that was there is lost; -1: it arrives
    std::string text() const;       // one sentence
};

// `level` gives the peak in dBFS at a port while it runs; without it only what the settings tell is known. Of several
// ways the loudest is followed, or else the first that leads on to a source. A loop is followed once.
using LevelAt = std::function<std::optional<double>(const engine::PortRef&)>;
// Mutes among the tools at work count as well.
Trace trace(const engine::Program& p, const std::string& destination, const LevelAt& level = {},
            const std::vector<Tool>& tools = {});

} // namespace loom::project
