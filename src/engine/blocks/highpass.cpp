// High-pass.
#include "engine/blocks/edge_block.h"

namespace loom::engine::highpass_block {

BlockKind declare() {
    BlockKind k;
    k.id = "highpass";
    k.label = "High-pass";
    k.purpose = "Takes away what lies below a corner: rumble, handling, breath.";
    declareEdge(k, dsp::EdgeSide::highPass, 100);
    return k;
}

} // namespace loom::engine::highpass_block
