// Third-octave analyser.
#include "dsp/dynamics.h"
#include "dsp/lane_cascade.h"
#include "dsp/lane_level.h"
#include "dsp/spectrum.h"
#include "engine/blocks/analysis.h"

namespace loom::engine::octave_block {
namespace {

ParamSet params;
const Param octMeasure = params.add(onOffParam("measure", "Measuring", true));
const Param octWeighting = params.add(weightingParam());
const Param octTime = params.add(choiceParam("time", "Time weighting", {"fast", "slow"}));

// The bands lie side by side on bundles: each lane of a bundle gets the same sound and filters it to its band.
class OctaveKernel final : public AnalysisKernel {
  public:
    OctaveKernel(const ParamTable& t, const std::vector<double>& v, double rate)
        : AnalysisKernel(t, v, rate), weigher_(rate), bands_(dsp::thirdOctaveCentres().size()), filters_(bands_),
          bundles_((bands_ + laneCount - 1) / laneCount), powers_(bundles_.size() * laneCount), shown_(bands_) {
        for (std::size_t b = 0; b < bands_; ++b) {
            std::array<dsp::Section, dsp::bandSections> sections;
            dsp::designFractionalOctave(dsp::thirdOctaveCentres()[b], 3, rate, sections);
            filters_[b].jumpTo(sections);
            bundles_[b / laneCount].assign(static_cast<int>(b % laneCount), &filters_[b]);
            show(shown_[b], dsp::silenceDb);
        }
    }
    float readout(int which) const noexcept override {
        const auto b = static_cast<std::size_t>(which);
        return b < bands_ ? shown_[b].load(std::memory_order_relaxed) : 0;
    }

  private:
    void process(Inputs in, Outputs out, int frames) noexcept override {
        pass(in, out, frames);
        if (params_.target(octMeasure) < 0.5)
            return;
        weigher_.choose(static_cast<dsp::Weighting>(static_cast<int>(params_.target(octWeighting))));
        float x[maxFrame];
        weigher_.run(in[0], x, frames);
        alignas(64) float same[dsp::bundleSize], band[dsp::bundleSize];
        for (int i = 0; i < frames; ++i)
            std::fill_n(same + i * laneCount, laneCount, x[i]);
        for (std::size_t s = 0; s < bundles_.size(); ++s) {
            bundles_[s].process(same, band, frames);
            float peaks[laneCount]{};
            dsp::levelsOf(band, frames, peaks, &gathered_[s * laneCount]);
        }
        since_ += frames;
        if (since_ < 512)
            return;
        const double pull = dsp::onePole(params_.target(octTime) >= 0.5 ? 1.0 : 0.125, rate_ / since_);
        for (std::size_t b = 0; b < bands_; ++b) {
            powers_[b] += pull * (2.0 * static_cast<double>(gathered_[b]) / since_ - powers_[b]);
            gathered_[b] = 0;
            show(shown_[b], dsp::dbFromPower(powers_[b])); // a full-scale sine is 0 dB
        }
        since_ = 0;
    }
    Weigher weigher_;
    std::size_t bands_;
    std::vector<dsp::Cascade> filters_;
    std::vector<dsp::LaneCascade> bundles_;
    std::vector<double> powers_;
    std::array<float, 64> gathered_{};
    std::vector<std::atomic<float>> shown_;
    int since_ = 0;
};

} // namespace

BlockKind declare() {
    BlockKind k;
    k.id = "octave";
    k.label = "Third-octave analyser";
    k.purpose = "Shows the level in each third of an octave from 25 Hz to 20 kHz (filters of IEC 61260-1 class 1).";
    k.params = params;
    k.inputs = k.outputs = [](const Shape&) { return 1; };
    k.cost = [](const Shape&, double) { return Cost{67, 16e3}; };
    k.kernel = plainKernel<OctaveKernel>();
    declareAnalysis(k);
    k.picture = Picture::bands;
    return k;
}

} // namespace loom::engine::octave_block
