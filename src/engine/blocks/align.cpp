// Alignment: holds a lane back until another one that is later has come.
#include "engine/blocks/delay_gang.h"

namespace loom::engine::align_block {
namespace {

// Later than any block makes sound, and several of them in a row.
constexpr int mostSamples = 32768;

ParamSet params;
const Param alignSamples =
    params.add({"samples", "Samples", Unit::none, 0, mostSamples, 0, 1, Taper::linear, Glide::none});

} // namespace

BlockKind declare() {
    BlockKind k;
    k.id = "align";
    k.label = "Alignment";
    k.group = Group::delay;
    k.purpose = "Holds a lane back by whole samples until a later one has come. What it adds counts as latency.";
    k.shape = {channelsSpec()};
    k.params = params;
    k.inputs = k.outputs = channelsOf;
    k.cost = [](const Shape& s, double) {
        return Cost{1.9 * channelsOf(s), mostSamples * sizeof(float) * static_cast<double>(channelsOf(s))};
    };
    k.kernel = [](const KernelSetup& s, const ParamTable& t, const std::vector<double>& v) -> std::unique_ptr<Kernel> {
        return std::make_unique<DelayKernel>(t, v, s.rate, channelsOf(s.shape), DelayTime{0, 1.0, mostSamples, true});
    };
    declareDelay(k);
    k.latency = [](const Values& v, double) { return static_cast<int>(std::lround(v[alignSamples])); };
    k.example = {{"samples", 63}};
    k.glyph = Glyph::number;
    k.glyphParam = "samples";
    k.neutral = [](const Values& v) { return v[alignSamples] == 0; };
    return k;
}

} // namespace loom::engine::align_block
