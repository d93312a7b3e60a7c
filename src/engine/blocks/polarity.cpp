// Polarity.
#include "engine/blocks/gain.h"

namespace loom::engine::polarity_block {

BlockKind declare() {
    BlockKind k;
    k.id = "polarity";
    k.label = "Polarity";
    k.group = Group::level;
    k.purpose = "Turns a thread's sign.";
    k.shape = {channelsSpec()};
    ParamSet params;
    const Param turn = params.add(polarityParam("polarity", "Polarity"));
    k.params = params;
    declareGainSound(k, {.polarity = turn});
    k.response = perChannel([turn](const Values& v, double, double) { return dsp::Complex(v[turn] >= 0.5 ? -1 : 1); });
    k.glyph = Glyph::number;
    k.glyphParam = "polarity";
    k.neutral = [turn](const Values& v) { return v[turn] == 0; };
    return k;
}

} // namespace loom::engine::polarity_block
