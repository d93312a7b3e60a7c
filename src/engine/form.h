// A kind of block in one shape: worked out once, kept, and known by its address.
#pragma once
#include "engine/block_kind.h"

namespace loom::engine {

struct Form {
    Shape shape;
    ParamTable table;
    int ins, outs;
};

// Any thread. The shape is complete and within its limits (fullShape).
const Form& formOf(const BlockKind& kind, const Shape& shape);

} // namespace loom::engine
