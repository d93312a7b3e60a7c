// Tools that are always there: mute, inject, bridge and band solo at any thread of what runs, without changing the
// program.
#pragma once
#include "engine/program.h"
#include "engine/result.h"
#include "model/tool.h"

namespace loom::project {

// "Mute at Delegate 3 · Equaliser", "Pink noise, −20.0 dB, at Ceiling 1".
std::string describe(const engine::Program& p, const Tool& tool);

// The program with the tools worked in, as blocks whose ids begin with "~". They rest: everything passes as if they
// were not there. Error: a port that is not there, or a bridge that would close a loop, with its path.
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
