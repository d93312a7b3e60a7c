// Where everything of a program lies when it lays itself out: lanes, beads and weaves, in rows and slots.
#pragma once
#include "engine/program.h"
#include <unordered_map>

namespace loom::engine {

// Rows and slots are counted, not measured: a view multiplies them with its own row height and bead width. From left to
// right: source lanes, gap 0, column 0 of hubs, gap 1, column 1 ... , destination lanes. Inner lanes lie in gaps.
struct Layout {
    enum class Kind { source, inner, destination };
    struct Lane {
        std::string end; // the source or destination block; an inner lane is known by its first bead
        Kind kind = Kind::source;
        double row = 0;
        std::vector<std::string> beads{}; // in the order of the sound
        PortRef open{};      // the port where its sound leaves a source or inner lane; where it enters a destination's
        int gap = 0;         // inner lanes
        std::string group{}; // marks["group"] of its end
        bool folded = false; // lies in the row of its group's heading, with the others of its group
        bool source() const { return kind == Kind::source; }
        bool destination() const { return kind == Kind::destination; }
        bool isEnd(const std::string& block) const { return kind != Kind::inner && block == end; }
    };
    struct Hub { // a block of several inputs or outputs: a matrix mixer is the weave itself
        std::string block;
        int column = 0;                          // hubs of a column lie below each other, sound goes from left to right
        std::vector<double> inRows{}, outRows{}; // inputs that folded lanes of one group reach share a row
    };
    struct Group { // lanes of one side under one heading
        std::string name;
        Kind kind = Kind::source;
        double row = 0; // of the heading
        std::vector<std::string> lanes{};
        bool folded = false;
    };
    std::vector<Lane> lanes{}; // as they lie below each other: sources, then inner lanes, then destinations
    std::vector<Hub> hubs{};   // by column, and down each
    std::vector<Group> groups{};
    double rows = 0;
    int sourceSlots = 0, destinationSlots = 0, columns = 0;
    std::vector<int> gapSlots{}; // of each gap, columns + 1 of them

    const Lane* laneOf(const std::string& block) const; // the lane an end or bead lies on
    const Hub* hubOf(const std::string& block) const;
    std::unordered_map<std::string, std::size_t> laneNumbers{}, hubNumbers{}; // by block
};

// Any program; a loop or an unknown block does not disturb it. Linear in blocks and threads but for sorting.
//
// Order. Sources come in the order of the program, each in a row of its own; the inputs of a hub lie in the rows of
// what reaches them where they can, so that threads run straight; destinations lie by the outputs that feed them, half
// a row lower than a weave's inputs, so that no warp covers a weft. marks["place"] (a whole number) of an end puts it
// before those without; lanes of one marks["group"] lie together, below a heading, and in one row if
// marks["folded"] is set. Inner lanes and hubs of one gap or column lie in the order of the medians of the rows that
// feed them: without crossings if that can be, else with at most three times the fewest (P. Eades, N. C. Wormald,
// "Edge crossings in drawings of bipartite graphs", Algorithmica 11, 1994, for what feeds them from one side).
//
// Stable: rows of lanes and hubs do not depend on values, nor on what beads lie on other lanes.
Layout layOut(const Program& program);

} // namespace loom::engine
