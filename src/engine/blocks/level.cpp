// Level: a fader with mute and polarity.
#include "engine/blocks/gain.h"

namespace loom::engine::level_block {

BlockKind declare() {
    BlockKind k;
    k.id = "level";
    k.label = "Level";
    k.purpose = "Sets a level, turns polarity, mutes.";
    declareGain(k, levelParam("gain", "Level", -80, 12, 0, true), {});
    return k;
}

} // namespace loom::engine::level_block
