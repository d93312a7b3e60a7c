// What is played in a space besides its own microphones: what cancellers and groups have to know.
#pragma once
#include "talk/lane_way.h"

namespace loom::project::first {

// Sources of a program that are no microphones of the space and get to its loudspeakers.
std::vector<std::string> playedIn(const Program& p, const Conversation& c, const std::string& device);
// Their sum, as one thread: there already, or made. Error: nothing is played.
Result<PortRef> referenceIn(Program& p, const std::vector<std::string>& played, const std::string& name);

} // namespace loom::project::first
