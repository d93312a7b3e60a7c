// Bass extension: small loudspeakers suggest lows that they cannot make, by the harmonics of those lows.
#include "dsp/cascade.h"
#include "dsp/dynamics.h"
#include "dsp/edge.h"
#include "engine/blocks/common.h"
#include <algorithm>
#include <cmath>

namespace loom::engine::bass_block {
namespace {

ParamSet params;
const Param bassOn = params.add(onOffParam("on", "On", true));
const Param bassEdge = params.add(frequencyParam("edge", "Edge", 100, 40, 250));
const Param bassDrive = params.add({"drive", "Drive", Unit::none, 0.5, 8, 2, 0.1, Taper::linear, Glide::linear});
const Param bassMix = params.add(levelParam("mix", "Harmonics", -40, 12, -3, true));
const Param bassLows = params.add(gliding(onOffParam("lows", "Keep the lows themselves", true)));

// The ear hears the missing fundamental of a row of harmonics (J. Schouten, 1940). The band below the edge is levelled,
// bent into even and odd harmonics, given its own envelope back, and let through above the edge only.
class BassKernel final : public Kernel {
  public:
    BassKernel(const ParamTable& t, const std::vector<double>& v, double rate, int channels)
        : Kernel(t, v, rate), channels_(static_cast<std::size_t>(channels)) {
        design(true);
    }

  private:
    struct Channel {
        dsp::Cascade low, harmonics, top;
        double envelope = 0;
    };
    void design(bool jump) {
        using dsp::EdgeShape, dsp::EdgeSide;
        const double hz = std::exp(params_.now(bassEdge));
        const auto low = dsp::designEdge(EdgeShape::butterworth, EdgeSide::lowPass, 4, hz, rate_),
                   high = dsp::designEdge(EdgeShape::butterworth, EdgeSide::highPass, 4, hz, rate_),
                   most = dsp::designEdge(EdgeShape::butterworth, EdgeSide::lowPass, 2, std::min(5 * hz, 0.4 * rate_),
                                          rate_);
        std::array<dsp::Section, 4> band{};
        std::copy_n(high.sections.begin(), high.count, band.begin());
        std::copy_n(most.sections.begin(), most.count, band.begin() + static_cast<std::ptrdiff_t>(high.count));
        const std::span<const dsp::Section> above(band.data(), high.count + most.count);
        for (auto& c : channels_) {
            if (jump) {
                c.low.jumpTo({low.sections.data(), low.count});
                c.harmonics.jumpTo(above);
                c.top.jumpTo({high.sections.data(), high.count});
            } else {
                c.low.glideTo({low.sections.data(), low.count});
                c.harmonics.glideTo(above);
                c.top.glideTo({high.sections.data(), high.count});
            }
        }
    }
    void prepare(int) noexcept override {
        if (params_.now(bassEdge) != params_.before(bassEdge))
            design(false);
    }
    void process(Inputs in, Outputs out, int frames) noexcept override {
        const double fall = dsp::onePole(0.030, rate_), drive = params_.now(bassDrive);
        const double mixFrom = params_.before(bassMix), mixStep = (params_.now(bassMix) - mixFrom) / frames;
        const double lowsFrom = params_.before(bassLows), lowsStep = (params_.now(bassLows) - lowsFrom) / frames;
        for (std::size_t c = 0; c < channels_.size(); ++c) {
            Channel& ch = channels_[c];
            float low[maxFrame], bent[maxFrame], top[maxFrame];
            ch.low.process(in[c], low, frames);
            ch.top.process(in[c], top, frames);
            for (int i = 0; i < frames; ++i) {
                const double x = low[i], size = std::abs(x);
                ch.envelope = size > ch.envelope ? size : ch.envelope + fall * (size - ch.envelope);
                if (!(ch.envelope < 1e3))
                    ch.envelope = 0;
                const double level = x / (ch.envelope + 1e-6);
                bent[i] = static_cast<float>(ch.envelope * (0.6 * std::abs(level) + std::tanh(drive * level)));
            }
            float made[maxFrame];
            ch.harmonics.process(bent, made, frames);
            for (int i = 0; i < frames; ++i) {
                const double mix = mixFrom + mixStep * (i + 1), lows = lowsFrom + lowsStep * (i + 1);
                // Where the lows stay, the sound itself; where they go, what lies above the edge.
                out[c][i] = static_cast<float>(lows * in[c][i] + (1 - lows) * top[i] + mix * made[i]);
            }
        }
    }
    std::vector<Channel> channels_;
};

} // namespace

BlockKind declare() {
    BlockKind k;
    k.id = "bass";
    k.label = "Bass extension";
    k.group = Group::filters;
    k.purpose = "Makes harmonics of the lows below an edge, so that small loudspeakers seem to reach lower.";
    k.shape = {channelsSpec(8)};
    k.params = params;
    k.inputs = k.outputs = channelsOf;
    k.cost = [](const Shape& s, double) { return Cost{55.0 * channelsOf(s), 6000.0 * channelsOf(s)}; };
    k.kernel = perChannelKernel<BassKernel>();
    k.glyph = Glyph::number;
    k.glyphParam = "edge";
    k.neutral = [](const Values& v) { return v[bassMix] <= -40 && v[bassLows] >= 0.5; };
    return k;
}

} // namespace loom::engine::bass_block
