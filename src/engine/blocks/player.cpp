// File player: a list of sound files, one after the other.
#include "engine/blocks/common.h"
#include "engine/play_list.h"
#include <algorithm>

namespace loom::engine::player_block {
namespace {

enum { playOnce, playAll, playOne };

ParamSet params;
const Param playRun = params.add(gliding(onOffParam("play", "Playing", false)));
const Param playRepeat = params.add(choiceParam("loop", "Repeat", {"nothing", "the list", "one file"}, playAll));
const Param playLevel = params.add(levelParam("level", "Level", -80, 12, 0, true));
const Param playItem = params.add({"item", "From file", Unit::none, 1, maxPlayList, 1, 1});

class PlayerKernel final : public Kernel {
  public:
    PlayerKernel(const ParamTable& t, const std::vector<double>& v, const KernelSetup& s) : Kernel(t, v, s.rate) {
        for (const auto& file : playList(s.texts))
            clips_.push_back(s.resources && s.resources->clip ? s.resources->clip(file, s.rate) : nullptr);
        item_ = chosen();
    }
    float readout(int which) const noexcept override {
        return which == 0   ? second_.load(std::memory_order_relaxed)
               : which == 1 ? shown_.load(std::memory_order_relaxed)
                            : 0;
    }

  private:
    std::size_t chosen() const {
        const auto n = static_cast<std::size_t>(std::max(0.0, params_.target(playItem) - 1));
        return clips_.empty() ? 0 : std::min(n, clips_.size() - 1);
    }
    const dsp::AudioClip* clip() const { return item_ < clips_.size() ? clips_[item_].get() : nullptr; }
    // The end of a file: the next of the list, the same again, or silence.
    void next() {
        const int repeat = static_cast<int>(params_.target(playRepeat));
        at_ = 0;
        if (repeat == playOne)
            return;
        for (std::size_t tries = 0; tries < clips_.size(); ++tries) { // past files that are missing or empty
            if (++item_ >= clips_.size()) {
                item_ = 0;
                over_ = repeat == playOnce;
            }
            if (over_ || (clip() && clip()->frames() > 0))
                return;
        }
    }
    void prepare(int) noexcept override {
        if (const auto want = chosen(); want != wanted_) {
            wanted_ = want;
            jump_ = true;
        }
    }
    void process(Inputs, Outputs out, int frames) noexcept override {
        const double from = params_.before(playLevel) * params_.before(playRun);
        const double step = (params_.now(playLevel) * params_.now(playRun) - from) / frames;
        const bool running = params_.target(playRun) >= 0.5 || from > 0;
        if (!running) // starting again starts at the beginning
        {
            at_ = 0;
            item_ = wanted_;
            over_ = false;
            jump_ = false;
            dip_ = 1;
        }
        const double fall = 1 / (0.010 * rate_);
        for (int i = 0; i < frames; ++i) {
            if (jump_ && dip_ <= 0) // another file was chosen: 10 ms down, 10 ms up
            {
                item_ = wanted_;
                at_ = 0;
                jump_ = over_ = false;
            }
            dip_ = std::clamp(dip_ + (jump_ ? -fall : fall), 0.0, 1.0);
            const auto* c = clip();
            const bool here = running && !over_ && c && at_ < c->frames();
            for (std::size_t o = 0; o < out.size(); ++o) {
                const bool has = here && o < c->channels.size();
                out[o][i] =
                    has ? static_cast<float>(static_cast<double>(c->channels[o][at_]) * dip_ * (from + step * (i + 1)))
                        : 0.0f;
            }
            if (running && !over_ && (!c || ++at_ >= c->frames()))
                next();
        }
        second_.store(static_cast<float>(static_cast<double>(at_) / rate_), std::memory_order_relaxed);
        shown_.store(running && !over_ && clip() ? static_cast<float>(item_ + 1) : 0.0f, std::memory_order_relaxed);
    }
    std::vector<std::shared_ptr<const dsp::AudioClip>> clips_;
    std::size_t item_ = 0, wanted_ = 0, at_ = 0;
    bool over_ = false, jump_ = false;
    double dip_ = 1;
    std::atomic<float> second_{0}, shown_{0};
};

} // namespace

BlockKind declare() {
    BlockKind k;
    k.id = "player";
    k.label = "File player";
    k.group = Group::sources;
    k.purpose = "Plays a list of sound files kept in the project.";
    k.shape = {channelsSpec(2)};
    k.params = params;
    k.inputs = noPorts;
    k.outputs = channelsOf;
    k.cost = [](const Shape& s, double) { return Cost{2 + 2.7 * channelsOf(s), 128}; };
    k.kernel = [](const KernelSetup& s, const ParamTable& t, const std::vector<double>& v) -> std::unique_ptr<Kernel> {
        return std::make_unique<PlayerKernel>(t, v, s);
    };
    k.files = maxPlayList;
    k.readouts = {{"second", "Seconds", "", 0, 600}, {"item", "File", "", 0, maxPlayList}};
    k.glyph = Glyph::tape;
    return k;
}

} // namespace loom::engine::player_block
