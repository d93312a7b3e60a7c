// What Survey sees by itself: shapes, names, addresses, power, and whether the rooms will work.
#pragma once
#include "findings/finding.h"
#include "program/load.h"
#include <stop_token>

namespace loom::project {

// Quick ones: shapes of rooms, names and addresses, racks, power over the network, ports that two rooms would have.
std::vector<Finding> checkRooms(const Project& project);
// Predictions against the targets, space by space and wall state by wall state. Takes longer; may be stopped.
std::vector<Finding> checkAcoustics(const Project& project, std::stop_token stop = {});

// What a rack holds and takes.
struct RackLoad {
    int unitsUsed = 0, units = 0;
    double watts = 0, heat = 0, poeTaken = 0, poeBudget = 0;
};
RackLoad loadOf(const Project& project, const Rack& rack);

} // namespace loom::project
