// Polarity.
#include "engine/blocks/gain.h"

namespace loom::engine {

BlockKind declare_polarity() {
    BlockKind k;
    k.id = "polarity", k.label = "Polarity", k.group = Group::level;
    k.purpose = "Turns a thread's sign.";
    k.shape = {channelsSpec()};
    k.params = [](const Shape&) -> std::vector<ParamSpec> {
        ParamSpec turn = choiceParam("polarity", "Polarity", {"normal", "inverted"});
        turn.glide = Glide::linear;
        return {turn};
    };
    k.inputs = k.outputs = channelsOf;
    k.cost = [](const Shape& s, double) { return Cost{0.3 * channelsOf(s), 64}; };
    declareGainSound(k);
    k.response =
        perChannel([](const Values& v, double, double) { return dsp::Complex(v["polarity"] >= 0.5 ? -1 : 1); });
    k.glyph = Glyph::number, k.glyphParam = "polarity";
    k.flat = [](const Values& v) { return v["polarity"] == 0; };
    return k;
}

} // namespace loom::engine
