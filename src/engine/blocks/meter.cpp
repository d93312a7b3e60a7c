// Level meter: peak, RMS, loudness and true peak of what passes.
#include "dsp/dynamics.h"
#include "dsp/loudness_meter.h"
#include "engine/blocks/analysis.h"

namespace loom::engine::meter_block {
namespace {

ParamSet params;
const Param metMeasure = params.add(onOffParam("measure", "Measuring", true));
const Param metWeighting = params.add(weightingParam());
const Param metTime = params.add(choiceParam("time", "Time weighting", {"fast", "slow"}));
enum { showMomentary, showShort, showIntegrated, showRms, showPeak, showTruePeak, figures };

class MeterKernel final : public AnalysisKernel {
  public:
    MeterKernel(const ParamTable& t, const std::vector<double>& v, double rate, int channels)
        : AnalysisKernel(t, v, rate), loudness_(rate, channels),
          weighers_(static_cast<std::size_t>(channels), Weigher(rate)) {
        for (auto& s : shown_)
            show(s, dsp::silenceDb);
    }
    float readout(int which) const noexcept override {
        return which >= 0 && which < figures ? shown_[static_cast<std::size_t>(which)].load(std::memory_order_relaxed)
                                             : 0;
    }

  private:
    void process(Inputs in, Outputs out, int frames) noexcept override {
        pass(in, out, frames);
        const bool measure = params_.target(metMeasure) >= 0.5;
        if (measure && !measuring_)
            loudness_.restart();
        measuring_ = measure;
        if (!measure)
            return;
        loudness_.process(in.data(), frames);
        const double perSecond = rate_ / frames,
                     pull = dsp::onePole(params_.target(metTime) >= 0.5 ? 1.0 : 0.125, perSecond);
        double loudest = 0, power = 0;
        for (std::size_t c = 0; c < in.size(); ++c) {
            weighers_[c].choose(static_cast<dsp::Weighting>(static_cast<int>(params_.target(metWeighting))));
            float y[maxFrame];
            weighers_[c].run(in[c], y, frames);
            double sum = 0;
            for (int i = 0; i < frames; ++i) {
                const double size = std::abs(static_cast<double>(y[i]));
                loudest = std::max(loudest, size);
                sum += size * size;
            }
            power = std::max(power, sum / frames);
        }
        rms_ += pull * (power - rms_);
        peak_ = std::max(loudest, peak_ * std::exp(-std::log(10.0) / 1.7 / perSecond)); // 20 dB in 1.7 s
        since_ += frames;
        if (since_ < rate_ / 25)
            return;
        since_ = 0;
        show(shown_[showMomentary], loudness_.momentary());
        show(shown_[showShort], loudness_.shortTerm());
        show(shown_[showIntegrated], loudness_.integrated());
        show(shown_[showRms], dsp::dbFromPower(rms_));
        show(shown_[showPeak], dsp::dbFromGain(peak_));
        show(shown_[showTruePeak], loudness_.truePeakDb());
    }
    dsp::LoudnessMeter loudness_;
    std::vector<Weigher> weighers_;
    std::array<std::atomic<float>, figures> shown_;
    double rms_ = 0, peak_ = 0, since_ = 0;
    bool measuring_ = false;
};

} // namespace

BlockKind declare() {
    BlockKind k;
    k.id = "meter";
    k.label = "Level meter";
    k.purpose = "Measures what passes: loudness (BS.1770), RMS (A, C or unweighted, fast or slow), peak and true peak. "
                "Switching the measurement on starts it anew.";
    k.shape = {channelsSpec(8)};
    k.params = params;
    k.inputs = k.outputs = channelsOf;
    k.cost = [](const Shape& s, double) { return Cost{48.0 * channelsOf(s), 16e3}; };
    k.kernel = perChannelKernel<MeterKernel>();
    declareAnalysis(k);
    k.readouts = {{"momentary", "Momentary", "LUFS", -60, 0},
                  {"short", "Short-term", "LUFS", -60, 0},
                  {"integrated", "Integrated", "LUFS", -60, 0},
                  {"rms", "RMS", "dBFS", -60, 0},
                  {"peak", "Peak", "dBFS", -60, 0},
                  {"true-peak", "True peak", "dBTP", -60, 0}};
    return k;
}

} // namespace loom::engine::meter_block
