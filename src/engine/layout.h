// Where everything of a program lies when it lays itself out: lanes, beads and weaves, in rows and slots.
#pragma once
#include "engine/program.h"
#include <unordered_map>

namespace loom::engine {

// Rows and slots are counted, not measured: a view multiplies them with its own row height and bead width.
struct Layout {
    struct Lane {
        std::string end; // the source or destination block
        bool source = true;
        double row = 0;
        std::vector<std::string> beads{}; // in the order of the sound
        PortRef open{}; // source: the port where the lane's sound leaves it; destination: where it comes in
    };
    struct Hub { // a block of several inputs or outputs: a matrix mixer is the weave itself
        std::string block;
        int column = 0; // hubs of a column lie below each other, sound goes from left to right
        std::vector<double> inRows{}, outRows{};
    };
    std::vector<Lane> lanes{};
    std::vector<Hub> hubs{};
    double rows = 0;
    int sourceSlots = 0, destinationSlots = 0, columns = 0;

    const Lane* laneOf(const std::string& block) const; // the lane an end or bead lies on
    const Hub* hubOf(const std::string& block) const;
    std::unordered_map<std::string, std::size_t> laneNumbers{}, hubNumbers{}; // by block
};

// Sources come in the order of the program, each in a row of its own; the inputs of a hub lie in the rows of the lanes
// that reach them where they can, so that threads run straight; destinations lie half a row lower, so that no warp
// covers a weft. Works for any program; a loop or an unknown block does not disturb it.
Layout layOut(const Program& program);

} // namespace loom::engine
