// Mute: where the sound of a space is cut, for all its places that mute.
#include "engine/blocks/gain.h"

namespace loom::engine::mute_block {

BlockKind declare() {
    BlockKind k;
    k.id = "mute";
    k.label = "Mute";
    k.group = Group::speech;
    k.purpose =
        "Cuts the sound of a space while it is muted. Buttons, lamps, laptops and telephones of the space follow "
        "it and set it.";
    k.shape = {channelsSpec()};
    ParamSet params;
    GainParams has;
    has.mute = params.add(gliding(onOffParam("muted", "Muted", false)));
    k.params = params;
    declareGainSound(k, has);
    k.response =
        perChannel([has](const Values& v, double, double) { return dsp::Complex(v[has.mute] >= 0.5 ? 0 : 1); });
    k.glyph = Glyph::number;
    k.glyphParam = "muted";
    k.neutral = [has](const Values& v) { return v[has.mute] == 0; };
    return k;
}

} // namespace loom::engine::mute_block
