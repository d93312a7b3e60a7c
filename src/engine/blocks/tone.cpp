// Tone control: bass, middle, treble.
#include "engine/blocks/fixed_cascade.h"

namespace loom::engine::tone_block {
namespace {

ParamSet params;
const Param toneOn = params.add(onOffParam("on", "On", true));
const Param bassGain = params.add(levelParam("bass", "Bass", -15, 15, 0));
const Param bassHz = params.add(frequencyParam("bass-hz", "Bass from", 120, 30, 500));
const Param middleGain = params.add(levelParam("middle", "Middle", -15, 15, 0));
const Param middleHz = params.add(frequencyParam("middle-hz", "Middle at", 1000, 200, 5000));
const Param trebleGain = params.add(levelParam("treble", "Treble", -15, 15, 0));
const Param trebleHz = params.add(frequencyParam("treble-hz", "Treble from", 6000, 1000, 16000));

void designTone(const GlideBank& p, double rate, double, dsp::Section* s) {
    const auto gain = [&](int i) { return 20 * std::log10(std::max(p.now(i), 1e-6)); };
    const auto hz = [&](int i) { return std::min(std::exp(p.now(i)), 0.45 * rate); };
    s[0] = dsp::designBand(dsp::BellKind::lowShelf, hz(bassHz), gain(bassGain), 0.707, rate);
    s[1] = dsp::designBand(dsp::BellKind::bell, hz(middleHz), gain(middleGain), 0.7, rate);
    s[2] = dsp::designBand(dsp::BellKind::highShelf, hz(trebleHz), gain(trebleGain), 0.707, rate);
}

} // namespace

BlockKind declare() {
    BlockKind k;
    k.id = "tone";
    k.label = "Tone control";
    k.group = Group::filters;
    k.purpose = "Bass, middle and treble, for people in the room.";
    k.shape = {channelsSpec()};
    k.params = params;
    declareFixedCascade<3>(k, designTone);
    k.example = {{"bass", 6}, {"treble", -4}};
    k.neutral = [](const Values& v) { return v[bassGain] == 0 && v[middleGain] == 0 && v[trebleGain] == 0; };
    return k;
}

} // namespace loom::engine::tone_block
