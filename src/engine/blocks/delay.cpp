// Delay: aligns loudspeakers with each other and with the talker.
#include "engine/blocks/delay_gang.h"

namespace loom::engine::delay_block {
namespace {

// Memory is taken for the longest delay, whatever is set.
double longestMs(const Shape& s) {
    return 1000.0 * countOf(s, "seconds");
}

ParamSet params; // in a shape of one second
const Param delayOn = params.add(onOffParam("on", "On", true));
const Param delayTime = params.add({"time", "Time", Unit::milliseconds, 0, 1000, 0, 0.1});
const Param delayFine = params.add(onOffParam("fine", "Fine steps", false));

} // namespace

BlockKind declare() {
    BlockKind k;
    k.id = "delay";
    k.label = "Delay";
    k.group = Group::delay;
    k.purpose =
        "Holds sound back: takes milliseconds, metres or feet (at 20 \u00b0C). Below 32 samples it goes in whole "
        "samples; with fine steps it goes in parts of a sample from zero on, and is 32 samples later.";
    k.shape = {channelsSpec(), {"seconds", "Longest delay (s)", 1, 1, 5}};
    k.params = [](const Shape& s) {
        auto specs = params(s);
        specs[static_cast<std::size_t>(delayTime)].max = longestMs(s);
        return specs;
    };
    k.inputs = k.outputs = channelsOf;
    k.cost = [](const Shape& s, double rate) {
        return Cost{1.9 * channelsOf(s), longestMs(s) / 1000 * rate * sizeof(float) * channelsOf(s)};
    };
    k.kernel = [](const KernelSetup& s, const ParamTable& t, const std::vector<double>& v) -> std::unique_ptr<Kernel> {
        return std::make_unique<DelayKernel>(
            t, v, s.rate, channelsOf(s.shape),
            DelayTime{delayTime, s.rate / 1000, longestMs(s.shape) / 1000 * s.rate, false, delayFine});
    };
    declareDelay(k);
    k.response = perChannel([](const Values& v, double hz, double rate) {
        const int fine = v[delayFine] >= 0.5 ? dsp::fineLatency : 0;
        return dsp::response(dsp::designDelay(v[delayTime] / 1000 * rate + fine), hz, rate);
    });
    k.latency = [](const Values& v, double) { return v[delayOn] >= 0.5 && v[delayFine] >= 0.5 ? dsp::fineLatency : 0; };
    k.glyph = Glyph::number;
    k.glyphParam = "time";
    k.neutral = [](const Values& v) { return v[delayTime] == 0 && v[delayFine] < 0.5; };
    return k;
}

} // namespace loom::engine::delay_block
