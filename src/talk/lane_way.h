// Where lanes of a program lead, as far as conversations are made of them.
#pragma once
#include "engine/block_kind.h"
#include "talk/conversation.h"

namespace loom::project::first {

using engine::Block;
using engine::PortRef;
using engine::Program;

// The first block of a kind on the lane of a source, before lanes meet; null: none.
const Block* beadOf(const Program& p, const std::string& source, const char* kind);
// Where a lane's sound has come to before other lanes join it: behind its last bead of one way in and out.
PortRef laneEnd(const Program& p, const std::string& source);
// Where it has come to at last: on through blocks that keep lanes apart, such as cancellers and groups.
// `walls`: over those that are at work while these are open (program/wall_switch.h).
PortRef laneOut(const Program& p, const std::string& source, const std::string& walls);
// Those of them that are there: others belong to proposals that were left out.
std::vector<std::string> present(const Program& p, const std::vector<std::string>& blocks);
// Puts a channel of a block into a lane: what left `from` to blocks of the same walls leaves `out` from now on.
void splice(Program& p, const PortRef& from, const PortRef& in, const PortRef& out);
// The matrix mixer that most of the microphones led to a device are on; "": none.
std::string firstMatrix(const Program& p, const Conversation& c, const std::string& device);
// The input or output of a matrix that a lane is on; -1: none.
int inputOn(const Program& p, const std::string& matrix, const std::string& source, const std::string& walls);
int outputOn(const Program& p, const std::string& matrix, const std::string& destination);
std::string crossing(int in, int out); // its parameter: "3.1"

} // namespace loom::project::first
