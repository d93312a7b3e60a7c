// What is wrong or risky in the sound between devices: streams, receivers, cables, rings, clock, power.
#pragma once
#include "findings/finding.h"

namespace loom::project {

// Grows with what there is: streams, receivers and cables are gone through once.
std::vector<Finding> checkPatch(const Project& project);

} // namespace loom::project
