// All-pass: turns phase and leaves the level.
#include "engine/blocks/fixed_cascade.h"

namespace loom::engine::allpass_block {
namespace {

ParamSet params;
const Param apOn = params.add(onOffParam("on", "On", true));
const Param apHz = params.add(frequencyParam("hz", "Frequency", 500));
const Param apOrder = params.add(choiceParam("order", "Order", {"first", "second"}));
const Param apQ =
    params.add({"q", "Width", Unit::quality, 0.1, 40, 0.7071, 0.05, Taper::logarithmic, Glide::logarithmic});

// First order: H = (c + 1/z) / (1 + c/z), c = (tan(w/2) - 1) / (tan(w/2) + 1): 90 degrees at the frequency (P. Regalia,
// S. Mitra, P. Vaidyanathan, "The digital all-pass filter", Proc. IEEE 76, 1988). Second order: the Audio EQ
// Cookbook's.
void designAllPass(const GlideBank& p, double rate, double order, dsp::Section* s) {
    const double hz = std::min(std::exp(p.now(apHz)), 0.49 * rate);
    if (order >= 0.5) {
        *s = dsp::designBand(dsp::BellKind::allPass, hz, 0, std::exp(p.now(apQ)), rate);
        return;
    }
    const double t = std::tan(dsp::pi * hz / rate), c = (t - 1) / (t + 1);
    *s = {c, 1, 0, c, 0};
}

} // namespace

BlockKind declare() {
    BlockKind k;
    k.id = "allpass";
    k.label = "All-pass";
    k.group = Group::filters;
    k.purpose = "Turns the phase about a frequency and leaves the level alone, to align what overlaps.";
    k.shape = {channelsSpec()};
    k.params = params;
    declareFixedCascade<1>(k, designAllPass, apOrder);
    return k;
}

} // namespace loom::engine::allpass_block
