// Tools that are always there: mute, inject and bridge at any thread of what runs, without changing the program.
#pragma once
#include "engine/program.h"
#include "engine/result.h"

namespace loom::project {

struct Tool {
    enum class Kind { mute, inject, bridge };
    Kind kind = Kind::mute;
    // The thread it is put at: the port the sound leaves, or the input of a block without outputs.
    engine::PortRef at{};
    engine::PortRef from{};       // bridge: the port whose sound is brought there
    std::string signal = "pink";  // inject: sine, pink, white, sweep ... (a choice of the generator), or "file NAME"
    double hz = 1000;             // inject: of the sine
    double levelDb = -20;         // inject: what the generator gives; a file, bridge: gain
    bool operator==(const Tool&) const = default;
};

// "Mute at Delegate 3 · Equaliser", "Pink noise, −20.0 dB, at Ceiling 1".
std::string describe(const engine::Program& p, const Tool& tool);

// The program with the tools worked in: blocks whose ids begin with "~", number n of the list in "~n...". `awake` says
// of each whether it acts; one that does not lets everything pass as if it were not there, so that tools come and go in a
// glide: load with false, then with true; and back. Trouble: a port that is not there, or a bridge that would close a
// loop, with its path.
Result<engine::Program> withTools(const engine::Program& p, const std::vector<Tool>& tools,
                                  const std::vector<bool>& awake);
// Whether everything a tool needs is in the program.
bool fits(const engine::Program& p, const Tool& tool);

} // namespace loom::project
