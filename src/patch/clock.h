// Which device leads the clock of a sound network, and who would follow it.
#pragma once
#include "patch/wiring.h"

namespace loom::project {

struct Clock {
    std::string network; // as Device::soundNetwork has it
    int segment = 0;     // Wired::segments
    // Devices of the project by number: the leader, then who leads when it goes, and so on; who never leads stands
    // last.
    std::vector<int> order{};
    bool leads = false; // whether the first may
    int leader() const { return leads ? order.front() : -1; }
};
// One for each sound network and each part of it that cables hold together; only devices that take part in sound. The
// order is IEEE 1588-2019 9.3.4 as far as a plan can know it: priority 1, clock class, identity. The identity is the
// serial number of a paired device, else its id; a planned priority goes before that of the model.
std::vector<Clock> clocksOf(const Project& project, const Wired& wired);
int clockPriority(const Device& device); // 255: it never leads
bool mayLead(const Device& device);

} // namespace loom::project
