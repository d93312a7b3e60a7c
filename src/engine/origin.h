// Whose sound a thread carries: that of one source alone, or of several.
#pragma once
#include "engine/block_kind.h"

namespace loom::engine {

// Whether sound goes on from an input of a block to an output, as it is set now.
bool goesOn(const BlockView& view, int in, int out);

// For every output port whose sound comes from one source only, as far as blocks keep lanes apart: the block it begins
// in. What a matrix mixer or a mix gives has none.
std::map<PortRef, std::string> origins(const Program& program);

} // namespace loom::engine
