// What differs between two programs of one device in values, and one chain as another program has it.
#pragma once
#include "engine/layout.h"
#include "engine/result.h"

namespace loom::project {

// Parameters of a block that have other values in another program; all that differ from the defaults if that has no
// such block. Empty for an unknown kind.
std::vector<std::string> changedSince(const engine::Block& block, const engine::Program& then);
// How many values of the lane (every block if it is "") differ; a block that only one of both has counts once.
int countChanged(const engine::Layout& layout, const engine::Program& now, const engine::Program& then,
                 const std::string& lane);
// The program with the values of a lane's blocks as another has them, where both have the block.
engine::Program withChainOf(const engine::Layout& layout, const engine::Program& now, const engine::Program& other,
                            const std::string& lane);

} // namespace loom::project
