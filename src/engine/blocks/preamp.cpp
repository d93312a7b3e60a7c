// Preamp: what a microphone input does before anything else.
#include "engine/blocks/gain.h"

namespace loom::engine::preamp_block {

BlockKind declare() {
    BlockKind k;
    k.id = "preamp";
    k.label = "Preamp";
    k.purpose = "Lifts a microphone to working level; supplies 48 V, turns polarity, mutes.";
    declareGain(k, levelParam("gain", "Gain", -10, 66, 0), {onOffParam("phantom", "48 V", false)});
    return k;
}

} // namespace loom::engine::preamp_block
