// What devices can do at most, beside what is asked of them.
#pragma once
#include "patch/wiring.h"

namespace loom::project {

struct Limit {
    enum class What { flowsOut, flowsIn, channelsOut, channelsIn, ringOut, ringIn, megabitsOut, megabitsIn, peers };
    What what{};
    std::string words; // "streams it sends", "canopies it hears"
    double used = 0, most = 0;
    bool over() const { return used > most + 1e-9; }
};
// Of one device; what its model says nothing of has no limit.
std::vector<Limit> limitsOf(const Patched& patched, const Device& device);

// Power over the network at one switch: what hangs on its feeding sockets.
struct PowerUse {
    int device = -1;            // of the project, by number
    double taken = 0, most = 0; // W
};
std::vector<PowerUse> powerUse(const Project& project, const Wired& wired);
// Devices that take their power from the network and are wired to a socket that gives none.
std::vector<int> unpowered(const Project& project, const Wired& wired);

} // namespace loom::project
