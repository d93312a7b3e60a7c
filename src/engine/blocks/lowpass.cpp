// Low-pass.
#include "engine/blocks/edge_block.h"

namespace loom::engine::lowpass_block {

BlockKind declare() {
    BlockKind k;
    k.id = "lowpass";
    k.label = "Low-pass";
    k.purpose = "Takes away what lies above a corner.";
    declareEdge(k, dsp::EdgeSide::lowPass, 12000);
    return k;
}

} // namespace loom::engine::lowpass_block
