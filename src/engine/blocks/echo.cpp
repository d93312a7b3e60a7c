// Echo canceller: takes the far end, as the loudspeakers play it, out of the microphones.
#include "dsp/echo_canceller.h"
#include "engine/blocks/common.h"
#include <algorithm>

namespace loom::engine::echo_block {
namespace {

ParamSet params;
const Param echoOn = params.add(onOffParam("on", "On", true));
const Param echoSuppression = params.add(glidingLevel("suppression", "Turns what is left down by", 0, 40, 20));

int partitionsFor(const Shape& s, double rate) {
    return std::max(1, static_cast<int>(std::ceil(countOf(s, "tail") / 1000.0 * rate / dsp::echoBlock)));
}

// All microphones share the loudspeakers' spectra. What they learn of the room after each block is spread over the
// frames until the next, so that no frame has much more work than another.
class EchoKernel final : public Kernel {
  public:
    EchoKernel(const ParamTable& t, const std::vector<double>& v, double rate, int channels, int partitions)
        : Kernel(t, v, rate), reference_(partitions) {
        for (int c = 0; c < channels; ++c)
            microphones_.push_back(std::make_unique<Microphone>(partitions));
    }
    float readout(int which) const noexcept override {
        return which == 0   ? erle_.load(std::memory_order_relaxed)
               : which == 1 ? level_.load(std::memory_order_relaxed)
                            : 0;
    }

  private:
    struct Microphone {
        explicit Microphone(int partitions) : canceller(partitions) {}
        dsp::EchoCanceller canceller;
        float in[dsp::echoBlock]{}, out[dsp::echoBlock]{};
    };
    void process(Inputs in, Outputs out, int frames) noexcept override {
        for (int done = 0; done < frames;) {
            const int n = std::min(frames - done, dsp::echoBlock - fill_);
            std::copy_n(in[microphones_.size()] + done, n, played_ + fill_);
            for (std::size_t m = 0; m < microphones_.size(); ++m) {
                std::copy_n(in[m] + done, n, microphones_[m]->in + fill_);
                std::copy_n(microphones_[m]->out + fill_, n, out[m] + done);
            }
            fill_ += n;
            done += n;
            learn(fill_);
            if (fill_ == dsp::echoBlock)
                nextBlock();
        }
    }
    // The share of the work that is due when so many samples of the next block are there.
    void learn(int filled) noexcept {
        const int due = reference_.partitions() * filled / dsp::echoBlock;
        if (due <= learned_)
            return;
        for (auto& m : microphones_)
            m->canceller.adapt(reference_, learned_, due);
        learned_ = due;
    }
    void nextBlock() noexcept {
        reference_.push(played_);
        double worst = 100;
        for (auto& m : microphones_) {
            m->canceller.filter(reference_, m->in, m->out, params_.now(echoSuppression));
            worst = std::min(worst, m->canceller.erleDb());
        }
        fill_ = learned_ = 0;
        erle_.store(static_cast<float>(worst), std::memory_order_relaxed);
        level_.store(static_cast<float>(dsp::dbFromPower(reference_.level())), std::memory_order_relaxed);
    }
    dsp::EchoReference reference_;
    std::vector<std::unique_ptr<Microphone>> microphones_;
    float played_[dsp::echoBlock]{};
    int fill_ = 0, learned_ = 1 << 20; // before the first block there is nothing to learn
    std::atomic<float> erle_{0}, level_{static_cast<float>(dsp::silenceDb)};
};

} // namespace

BlockKind declare() {
    BlockKind k;
    k.id = "echo";
    k.label = "Echo canceller";
    k.group = Group::speech;
    k.purpose =
        "Takes what the loudspeakers play out of the microphones, so that the far end does not hear itself. The "
        "first inputs are microphones, the last is the reference: what goes to the loudspeakers.";
    k.shape = {{"channels", "Microphones", 1, 1, 32}, {"tail", "Tail (ms)", 256, 32, 500}};
    k.params = params;
    k.inputs = [](const Shape& s) { return channelsOf(s) + 1; };
    k.outputs = channelsOf;
    k.cost = [](const Shape& s, double rate) {
        const double partitions = partitionsFor(s, rate);
        return Cost{8 + channelsOf(s) * (40 + 1.9 * partitions),
                    partitions * 3300 * (channelsOf(s) + 1) + 20e3 * channelsOf(s)};
    };
    k.kernel = [](const KernelSetup& s, const ParamTable& t, const std::vector<double>& v) -> std::unique_ptr<Kernel> {
        return std::make_unique<EchoKernel>(t, v, s.rate, channelsOf(s.shape), partitionsFor(s.shape, s.rate));
    };
    k.latency = [](const Values& v, double) { return v[echoOn] >= 0.5 ? dsp::echoLatency : 0; };
    k.portName = [](const Shape& s, bool input, int port) {
        return input && port == channelsOf(s) ? std::string("reference") : std::to_string(port + 1);
    };
    k.readouts = {{"erle", "Echo taken away", "dB", 0, 50}, {"reference", "Reference", "dB", -80, 0}};
    k.glyph = Glyph::number;
    k.glyphParam = "suppression";
    return k;
}

} // namespace loom::engine::echo_block
