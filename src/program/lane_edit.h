// Work on several lanes at once: what belongs together on them, and chains that are copied from one to others.
#pragma once
#include "engine/layout.h"
#include "engine/result.h"

namespace loom::project {

// The same bead on other lanes: of the same kind and, of those, at the same place along the lane. `block` itself and
// lanes that have none are left out.
std::vector<std::string> counterparts(const engine::Layout& layout, const engine::Program& p,
                                      const std::vector<std::string>& lanes, const std::string& block);

// Takes beads of lanes to another lane, at a place among its beads from 0; `copy` leaves them where they are, too.
// Beads of several lanes keep their order. Error: no such place, or a loop.
struct Moved {
    engine::Program program;
    std::vector<std::string> beads{}; // as they are called now
};
Result<Moved> moveBeads(const engine::Layout& layout, const engine::Program& p, const std::vector<std::string>& beads,
                        const std::string& lane, int place, bool copy);

// The beads of a lane as text for the clipboard; "" if it has none.
std::string copyChain(const engine::Layout& layout, const engine::Program& p, const std::string& lane);
// Error: not a chain, or of blocks that are not known here.
Result<std::vector<engine::Block>> readChain(const std::string& text);
// Puts a chain in place of the beads of each lane.
Result<engine::Program> pasteChain(const engine::Layout& layout, const engine::Program& p,
                                   const std::vector<std::string>& lanes, const std::vector<engine::Block>& chain);
// Gives the beads of each lane the values of those of the same kind in the chain, in their order. Error: no bead of
// any lane is of a kind in the chain.
Result<engine::Program> pasteSettings(const engine::Layout& layout, const engine::Program& p,
                                      const std::vector<std::string>& lanes, const std::vector<engine::Block>& chain);

} // namespace loom::project
