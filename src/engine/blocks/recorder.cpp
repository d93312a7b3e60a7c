// Recorder: gathers what arrives; its host drains it and writes the file (project/tapes).
#include "engine/blocks/common.h"
#include "engine/ring.h"

namespace loom::engine::recorder_block {
namespace {

ParamSet params;
const Param recorderOn = params.add(onOffParam("record", "Recording", false));

class RecorderKernel final : public Kernel {
  public:
    RecorderKernel(const ParamTable& t, const std::vector<double>& v, double rate, int channels)
        : Kernel(t, v, rate), ring_(static_cast<std::size_t>(rate * 4) * channels) {}
    std::size_t drain(std::span<float> to) noexcept override {
        std::size_t n = 0;
        while (n < to.size() && ring_.pop(to[n]))
            ++n;
        return n;
    }

  private:
    void process(Inputs in, Outputs, int frames) noexcept override {
        // A host that does not drain loses whole frames, never a channel of one.
        if (params_.target(recorderOn) < 0.5 || ring_.room() < in.size() * static_cast<std::size_t>(frames))
            return;
        for (int i = 0; i < frames; ++i)
            for (const float* channel : in)
                ring_.push(channel[i]);
    }
    Ring<float> ring_;
};

} // namespace

BlockKind declare() {
    BlockKind k;
    k.id = "recorder";
    k.label = "File recorder";
    k.group = Group::eyes;
    k.purpose = "Records what arrives to a WAV file, from switching on to switching off.";
    k.shape = {channelsSpec(8)};
    k.params = params;
    k.inputs = channelsOf;
    k.outputs = noPorts;
    k.cost = [](const Shape& s, double rate) { return Cost{1.0 * channelsOf(s), rate * 16 * channelsOf(s)}; };
    k.kernel = perChannelKernel<RecorderKernel>();
    k.glyph = Glyph::tape;
    return k;
}

} // namespace loom::engine::recorder_block
