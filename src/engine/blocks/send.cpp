// Stream send: a channel that goes over the network.
#include "engine/blocks/ends.h"

namespace loom::engine::send_block {

BlockKind declare() {
    BlockKind k;
    k.id = "send";
    k.label = "Stream send";
    k.purpose = "Offers a channel to other devices as a stream on the network.";
    declareEnd(k, false);
    k.network = true;
    return k;
}

} // namespace loom::engine::send_block
