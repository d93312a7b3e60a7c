// FFT analyser.
#include "dsp/fft_analyser.h"
#include "engine/blocks/analysis.h"

namespace loom::engine::fft_block {
namespace {

ParamSet params;
const Param fftMeasure = params.add(onOffParam("measure", "Measuring", true));
const Param fftAverage = params.add(secondsParam("average", "Averaging", 0, 10, 0.3));

class FftKernel final : public AnalysisKernel {
  public:
    FftKernel(const ParamTable& t, const std::vector<double>& v, double rate)
        : AnalysisKernel(t, v, rate), fft_(rate) {}
    float readout(int which) const noexcept override {
        return which >= 0 && which < dsp::FftAnalyser::points ? fft_.levelDb(which) : 0;
    }

  private:
    void process(Inputs in, Outputs out, int frames) noexcept override {
        pass(in, out, frames);
        if (params_.target(fftMeasure) >= 0.5)
            fft_.process(in[0], frames, params_.target(fftAverage));
    }
    dsp::FftAnalyser fft_;
};

} // namespace

BlockKind declare() {
    BlockKind k;
    k.id = "fft";
    k.label = "FFT analyser";
    k.purpose = "Shows a fine spectrum, from lines 6 Hz apart at 48 kHz: a whistle or hum stands out as a peak.";
    k.params = params;
    k.inputs = k.outputs = [](const Shape&) { return 1; };
    k.cost = [](const Shape&, double) { return Cost{25, 140e3}; };
    k.kernel = plainKernel<FftKernel>();
    declareAnalysis(k);
    k.picture = Picture::lines;
    return k;
}

} // namespace loom::engine::fft_block
