// Listen point: a place in the program that has a name and can be heard on the bench; nothing leaves it.
#include "engine/blocks/common.h"

namespace loom::engine::listen_block {

BlockKind declare() {
    BlockKind k;
    k.id = "listen";
    k.label = "Listen point";
    k.group = Group::ends;
    k.purpose = "Marks a place to listen at: choose its lane and press Space on the bench. Nothing leaves it.";
    k.inputs = [](const Shape&) { return 1; };
    k.outputs = noPorts;
    k.cost = [](const Shape&, double) { return Cost{1.3, 16}; };
    k.kernel = plainKernel<Kernel>();
    k.glyph = Glyph::port;
    return k;
}

} // namespace loom::engine::listen_block
