// Correlation meter.
#include "dsp/dynamics.h"
#include "engine/blocks/analysis.h"

namespace loom::engine::correlation_block {
namespace {

ParamSet params;
const Param correlationTime = params.add(secondsParam("time", "Averaging", 0.05, 10, 0.3));

// Pearson's coefficient of two channels over an exponential window; 0 where one of them is silent.
class CorrelationKernel final : public AnalysisKernel {
  public:
    using AnalysisKernel::AnalysisKernel;
    float readout(int which) const noexcept override {
        return which == 0   ? shown_.load(std::memory_order_relaxed)
               : which == 1 ? balance_.load(std::memory_order_relaxed)
                            : 0;
    }

  private:
    void process(Inputs in, Outputs out, int frames) noexcept override {
        pass(in, out, frames);
        double xx = 0, yy = 0, xy = 0;
        for (int i = 0; i < frames; ++i) {
            const double x = static_cast<double>(in[0][i]), y = static_cast<double>(in[1][i]);
            xx += x * x;
            yy += y * y;
            xy += x * y;
        }
        if (!std::isfinite(xx + yy + xy))
            return;
        const double pull = dsp::onePole(params_.target(correlationTime), rate_ / frames);
        xx_ += pull * (xx / frames - xx_);
        yy_ += pull * (yy / frames - yy_);
        xy_ += pull * (xy / frames - xy_);
        const bool sound = xx_ > 1e-12 && yy_ > 1e-12; // -120 dBFS
        show(shown_, sound ? std::clamp(xy_ / std::sqrt(xx_ * yy_), -1.0, 1.0) : 0);
        show(balance_, sound ? std::clamp(10 * std::log10(yy_ / xx_), -60.0, 60.0) : 0);
    }
    double xx_ = 0, yy_ = 0, xy_ = 0;
    std::atomic<float> shown_{0}, balance_{0};
};

} // namespace

BlockKind declare() {
    BlockKind k;
    k.id = "correlation";
    k.label = "Correlation meter";
    k.purpose =
        "Compares two channels: +1 the same, 0 nothing in common, \u22121 opposite polarity (they cancel in mono).";
    k.params = params;
    k.inputs = k.outputs = [](const Shape&) { return 2; };
    k.cost = [](const Shape&, double) { return Cost{6, 64}; };
    k.kernel = plainKernel<CorrelationKernel>();
    declareAnalysis(k);
    k.readouts = {{"correlation", "Correlation", "", -1, 1}, {"balance", "Second over first", "dB", -20, 20}};
    return k;
}

} // namespace loom::engine::correlation_block
