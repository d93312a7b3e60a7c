// A tool at a thread of what runs (program/tools.h): what is put where.
#pragma once
#include "engine/program.h"
#include "engine/result.h"

namespace loom::project {

struct Tool {
    enum class Kind { mute, inject, bridge, solo };
    Kind kind = Kind::mute;
    // The thread it is put at: the port the sound leaves, or the input of a block without outputs.
    engine::PortRef at{};
    engine::PortRef from{};      // bridge: the port whose sound is brought there
    std::string signal = "pink"; // inject: sine, pink, white, sweep ... (a choice of the generator), or "file NAME"
    double hz = 1000;            // inject: of the sine; solo: the middle of what is heard alone
    double octaves = 1;          // solo: how wide that is
    double levelDb = -20;        // inject: what the generator gives; a file, bridge: gain
    int number = 1;              // tells the tools of a list apart
    std::map<std::string, std::string> extra{}; // fields of a later version, as JSON text
    bool operator==(const Tool&) const = default;
};

// "pink -20", "sine 1k -20", "sweep", "file chair.flac -6": what is to be injected. Error: no such signal.
Result<Tool> readSignal(const std::string& text);

} // namespace loom::project
