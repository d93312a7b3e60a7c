// Level: a fader with mute and polarity.
#include "engine/blocks/gain.h"

namespace loom::engine {

BlockKind declare_level() {
    BlockKind k;
    k.id = "level";
    k.label = "Level";
    k.purpose = "Sets a level, turns polarity, mutes.";
    declareGain(k, levelParam("gain", "Level", -80, 12, 0, true), {});
    return k;
}

} // namespace loom::engine
