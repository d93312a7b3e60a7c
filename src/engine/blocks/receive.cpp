// Stream receive: a channel that comes over the network.
#include "engine/blocks/ends.h"

namespace loom::engine::receive_block {

BlockKind declare() {
    BlockKind k;
    k.id = "receive";
    k.label = "Stream receive";
    k.purpose = "Brings in a channel of a stream that another device offers on the network.";
    declareEnd(k, true);
    k.network = true;
    return k;
}

} // namespace loom::engine::receive_block
