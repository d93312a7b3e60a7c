// High-pass.
#include "engine/blocks/edge_block.h"

namespace loom::engine {

BlockKind declare_highpass() {
    BlockKind k;
    k.id = "highpass";
    k.label = "High-pass";
    k.purpose = "Takes away what lies below a corner: rumble, handling, breath.";
    declareEdge(k, dsp::EdgeSide::highPass, 100);
    return k;
}

} // namespace loom::engine
