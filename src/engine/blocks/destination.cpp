// Destination: an output of the processor, the end of a lane.
#include "engine/blocks/ends.h"

namespace loom::engine::destination_block {

BlockKind declare() {
    BlockKind k;
    k.id = "destination";
    k.label = "Destination";
    k.purpose = "Hands sound to an output of the processor.";
    declareEnd(k, false);
    return k;
}

} // namespace loom::engine::destination_block
