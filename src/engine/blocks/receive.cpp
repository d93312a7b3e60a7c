// Stream receive: a channel that comes over the network.
#include "engine/blocks/ends.h"

namespace loom::engine {

BlockKind declare_receive() {
    BlockKind k;
    k.id = "receive";
    k.label = "Stream receive";
    k.purpose = "Brings in a channel of a stream that another device offers on the network.";
    declareEnd(k, true);
    k.network = true;
    return k;
}

} // namespace loom::engine
