// Tools that are always there: mute, inject, bridge and band solo at any thread of what runs, without changing the
// program.
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

// "pink -20", "sine 1k -20", "sweep", "file chair.flac -6": what is to be injected. Trouble: no such signal.
Result<Tool> readSignal(const std::string& text);
// "Mute at Delegate 3 · Equaliser", "Pink noise, −20.0 dB, at Ceiling 1".
std::string describe(const engine::Program& p, const Tool& tool);

// The program with the tools worked in, as blocks whose ids begin with "~". They rest: everything passes as if they
// were not there. Trouble: a port that is not there, or a bridge that would close a loop, with its path.
Result<engine::Program> withTools(const engine::Program& p, const std::vector<Tool>& tools);
// The parameters of that program which make a tool act, and the values at which it acts and rests; the sound glides
// between them, so that tools come and go without a click.
struct ToolSwitch {
    std::string block, param;
    double acts, rests;
};
std::vector<ToolSwitch> switchesOf(const Tool& tool);
// Whether everything a tool needs is in the program.
bool fits(const engine::Program& p, const Tool& tool);

} // namespace loom::project
