// Ways over two transports, where they relieve a cable of the network: round a ring, and on from a device that has
// both.
#pragma once
#include "patch/wiring.h"

namespace loom::project {

struct Relief {
    std::string stream, receiver; // keys of what goes another way
    std::string over;             // the device that has both; "": straight round the ring
    double before = 0, after = 0; // Mbit/s of the cable, in its fuller direction
    // Others that carry more than before: id of the cable, Mbit/s before and after.
    struct More {
        std::string wire;
        double before = 0, after = 0;
    };
    std::vector<More> more{};
    Edit edit{};
};
// For each stream over the cable (by id) and each who hears it by that: the first way that takes it off, puts no cable
// over 80 % and no device or ring over its limits. Programs get the ends and lanes that it needs. The greatest relief
// is first. Error: there is no such cable, or it is none of the network.
Result<std::vector<Relief>> reliefsOf(const Project& project, const std::string& wire);
// "hall-mix to Treadle 4, round the ring to Heddle 8 and on over the network: 80.2 to 71.4 Mbit/s"
std::string wordsOf(const Project& project, const Relief& relief);

} // namespace loom::project
