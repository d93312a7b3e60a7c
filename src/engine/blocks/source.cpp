// Source: an input of the processor, the start of a lane.
#include "engine/blocks/ends.h"

namespace loom::engine::source_block {

BlockKind declare() {
    BlockKind k;
    k.id = "source";
    k.label = "Source";
    k.purpose = "Brings in what arrives at an input of the processor.";
    declareEnd(k, true);
    return k;
}

} // namespace loom::engine::source_block
