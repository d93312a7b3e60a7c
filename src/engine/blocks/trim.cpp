// Trim.
#include "engine/blocks/gain.h"

namespace loom::engine::trim_block {

BlockKind declare() {
    BlockKind k;
    k.id = "trim";
    k.label = "Trim";
    k.purpose = "Brings a thread to nominal level, within 24 dB up or down.";
    ParamSpec gain = levelParam("gain", "Trim", -24, 24, 0);
    gain.step = 0.1;
    declareGain(k, gain, {});
    return k;
}

} // namespace loom::engine::trim_block
