// Level meter: sound goes through untouched; its level is shown on the bead as on every thread.
#include "engine/blocks/gain.h"

namespace loom::engine {
BlockKind declare_meter() {
    BlockKind k;
    k.id = "meter", k.label = "Level meter", k.group = Group::eyes;
    k.purpose = "Shows peak and RMS level at its place, and passes the sound on untouched.";
    k.shape = {channelsSpec()};
    k.params = [](const Shape&) { return std::vector<ParamSpec>{}; };
    k.inputs = k.outputs = channelsOf;
    k.cost = [](const Shape& s, double) { return Cost{0.5 * channelsOf(s), 32}; };
    declareGainSound(k);
    k.response = perChannel([](const Values&, double, double) { return dsp::Complex(1); });
    k.glyph = Glyph::meter;
    k.flat = [](const Values&) { return true; };
    return k;
}

} // namespace loom::engine
