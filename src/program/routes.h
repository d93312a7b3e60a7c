// Where the sound of lanes goes: by threads, and through matrix mixers that are made and grown where they are needed.
#pragma once
#include "engine/block_kind.h"
#include "engine/layout.h"
#include "engine/result.h"

namespace loom::project {

// Where the sound of a lane has come to: behind its last bead, and on through blocks that keep lanes apart; behind the
// mix of an automatic mixer. `lane` is a source or a hub.
engine::PortRef openEnd(const engine::Program& p, const std::string& lane);
// Where a destination's lane begins: its first bead's input, or its own.
engine::PortRef entryOf(const engine::Program& p, const std::string& destination);
// The output that carries the sound of one input alone; -1: there is none, or it carries others too.
int outputFor(const engine::BlockView& view, int in);

// Routes each of the lanes to each of the destinations at a level in dB. One lane to one destination that nothing
// reaches yet is a thread; all else goes through the matrix mixer that one of them is on, or a new one, grown as
// needed. What a destination hears already stays. A loop is refused with its path.
Result<engine::Program> routeAll(const engine::Program& p, const std::vector<std::string>& lanes,
                                 const std::vector<std::string>& destinations, double level);
// The first lane to the first destination, the second to the second ...; what has no partner is left.
Result<engine::Program> routeInOrder(const engine::Program& p, const std::vector<std::string>& lanes,
                                     const std::vector<std::string>& destinations, double level);
// What dragging one end of a lane to another's routes: from a source to a destination, whichever was dragged. If the
// dragged lane is chosen, all chosen ones of its side go along, in the order of the lanes, to the target and those
// below it. Empty: these are no source and destination.
using Route = std::pair<std::string, std::string>;
std::vector<Route> draggedRoutes(const engine::Layout& layout, const std::string& dragged, const std::string& target,
                                 const std::vector<std::string>& chosen);
// The same, all of the chosen sources to the first destination.
std::vector<Route> allToOne(const engine::Layout& layout, const std::vector<Route>& routes,
                            const std::vector<std::string>& chosen);
// To every destination whose name fits the pattern (* and ?, case does not matter). A pattern that fits no destination
// may mean an input that has a name, "* reference" of an echo canceller: the first lane is drawn there.
Result<engine::Program> routeLanes(const engine::Program& p, const std::vector<std::string>& lanes,
                                   const std::string& pattern, double level);
bool fitsPattern(const std::string& pattern, const std::string& name);

// The mix-minus helper: opens the crossings of a matrix from every input to every output, but for those from where an
// output's own sound comes back: names tell ("Far end" and "Far-end send" by their port, "usb 1"). Crossings that are
// open already keep their level. Error: no matrix, or no output whose own input is on it.
struct MixMinus {
    engine::Program program;
    int opened = 0, closed = 0;
    std::vector<std::string> pairs{}; // "Far end is left out of Far-end send"
};
Result<MixMinus> mixMinus(const engine::Program& p, const std::string& matrix, int output);

} // namespace loom::project
