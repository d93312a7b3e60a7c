// File player.
#include "engine/blocks/common.h"

namespace loom::engine {
namespace {

enum { playRun, playLoop, playLevel };

class PlayerKernel final : public Kernel {
  public:
    PlayerKernel(const ParamTable& t, const std::vector<double>& v, const KernelSetup& s) : Kernel(t, v, s.rate) {
        const auto file = s.texts.find("file");
        if (s.resources && s.resources->clip && file != s.texts.end() && !file->second.empty())
            clip_ = s.resources->clip(file->second, s.rate);
    }

  private:
    void process(Inputs, Outputs out, int frames) noexcept override {
        const double from = params_.before(playLevel) * params_.before(playRun);
        const double step = (params_.now(playLevel) * params_.now(playRun) - from) / frames;
        const bool sounding = clip_ && clip_->frames() > 0 && (params_.target(playRun) >= 0.5 || from > 0);
        if (params_.target(playRun) < 0.5 && from == 0)
            at_ = 0; // starting again starts at the beginning
        for (int i = 0; i < frames; ++i) {
            const bool here = sounding && at_ < clip_->frames();
            for (std::size_t c = 0; c < out.size(); ++c) {
                const bool has = here && c < clip_->channels.size();
                out[c][i] = has ? static_cast<float>(clip_->channels[c][at_] * (from + step * (i + 1))) : 0.0f;
            }
            if (here && ++at_ == clip_->frames() && params_.target(playLoop) >= 0.5)
                at_ = 0;
        }
    }
    std::shared_ptr<const dsp::AudioClip> clip_;
    std::size_t at_ = 0;
};

} // namespace

BlockKind declare_player() {
    BlockKind k;
    k.id = "player", k.label = "File player", k.group = Group::sources;
    k.purpose = "Plays a sound file kept in the project.";
    k.shape = {channelsSpec(2)};
    k.params = [](const Shape&) -> std::vector<ParamSpec> {
        ParamSpec run = onOffParam("play", "Playing", false);
        run.glide = Glide::linear;
        return {run, onOffParam("loop", "Repeat", true), levelParam("level", "Level", -80, 12, 0, true)};
    };
    k.inputs = noPorts;
    k.outputs = channelsOf;
    k.cost = [](const Shape& s, double) { return Cost{3.0 * channelsOf(s), 128}; };
    k.kernel = [](const KernelSetup& s, const ParamTable& t, const std::vector<double>& v) -> std::unique_ptr<Kernel> {
        return std::make_unique<PlayerKernel>(t, v, s);
    };
    k.takesFile = true;
    k.glyph = Glyph::tape;
    k.flat = [](const Values&) { return false; };
    return k;
}

} // namespace loom::engine
