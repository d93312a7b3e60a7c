// Feedback suppressor: finds the notes at which the room rings, sets narrow notches on them, lists and frees them.
#include "dsp/cascade.h"
#include "dsp/howl_finder.h"
#include "engine/blocks/common.h"
#include <algorithm>

namespace loom::engine::feedback_block {
namespace {

constexpr std::size_t notches = 8;
ParamSet params;
const Param fbOn = params.add(onOffParam("on", "On", true));
const Param fbSense = params.add(glidingLevel("sensitivity", "A note stands out by", 10, 40, 20));
const Param fbDepth = params.add(glidingLevel("depth", "Depth at most", 0, 30, 18));
const Param fbWidth = params.add({"width", "Width of a notch", Unit::quality, 5, 100, 30, 0.1, Taper::logarithmic});
const Param fbHold = params.add(secondsParam("hold", "Freed after (0: never)", 0, 3600, 120));
const Param fbFind = params.add(onOffParam("find", "Looks for ringing", true));
const Param fbClear = params.add(onOffParam("clear", "All freed", false));
ParamRows rows;
const auto notchUse = rows.add(
    [](int n) { return onOffParam(std::to_string(n) + ".use", "Notch " + std::to_string(n) + " may be used", true); });
constexpr double stepDb = 6, slewDb = 0.4;      // deeper at each find; a frame
constexpr double sameNote = 1.04, again = 0.25; // ratio of frequencies; seconds between two finds of one note

class FeedbackKernel final : public Kernel {
  public:
    FeedbackKernel(const ParamTable& t, const std::vector<double>& v, double rate) : Kernel(t, v, rate), finder_(rate) {
        design();
        filter_.jumpTo(sections_);
        awake_ = true; // notches move by themselves
    }
    float readout(int which) const noexcept override {
        if (which == 0)
            return count_.load(std::memory_order_relaxed);
        const auto n = static_cast<std::size_t>(which - 1);
        return n < shown_.size() ? shown_[n].load(std::memory_order_relaxed) : 0;
    }

  private:
    struct Notch {
        double hz = 0, depth = 0, goal = 0, since = 0; // dB; seconds since it was last needed
    };
    bool allowed(std::size_t n) const {
        return params_.target(rows.at(params.size(), static_cast<int>(n), notchUse)) >= 0.5;
    }

    void process(Inputs in, Outputs out, int frames) noexcept override {
        // What leaves is looked at: what a notch holds down no longer rings.
        filter_.process(in[0], out[0], frames);
        const auto howl = finder_.process(out[0], frames, params_.now(fbSense));
        if (howl.hz > 0 && params_.target(fbFind) >= 0.5 && params_.target(fbOn) >= 0.5)
            setNotch(howl.hz);
        age(frames / rate_);
        move();
        if (moving_) {
            design();
            filter_.glideTo(sections_);
        }
        publish();
    }

    void setNotch(double hz) {
        Notch* best = nullptr;
        for (std::size_t n = 0; n < notches; ++n) {
            Notch& k = notches_[n];
            if (k.hz > 0 && k.goal > 0 && std::max(hz / k.hz, k.hz / hz) < sameNote) { // deeper, not another beside it
                if (k.since > again) {
                    k.goal = std::min(k.goal + stepDb, params_.target(fbDepth));
                    k.since = 0;
                }
                return;
            }
        }
        for (std::size_t n = 0; n < notches; ++n) // a free one, else the one that was not needed for longest
            if (Notch& k = notches_[n];
                allowed(n) && (!best || (best->goal > 0 && (k.goal == 0 || k.since > best->since))))
                best = &k;
        if (best)
            *best = {hz, best->hz == hz ? best->depth : 0, std::min(stepDb, params_.target(fbDepth)), 0};
    }
    void age(double seconds) {
        const double hold = params_.target(fbHold);
        const bool clear = params_.target(fbClear) >= 0.5;
        for (std::size_t n = 0; n < notches; ++n) {
            Notch& k = notches_[n];
            k.since += seconds;
            if (clear || !allowed(n) || (hold > 0 && k.since > hold))
                k.goal = 0;
            k.goal = std::min(k.goal, params_.target(fbDepth));
        }
    }
    void move() {
        moving_ = params_.moving();
        for (auto& k : notches_) {
            moving_ = moving_ || k.depth != k.goal;
            k.depth += std::clamp(k.goal - k.depth, -slewDb, slewDb);
        }
    }
    void design() {
        for (std::size_t n = 0; n < notches; ++n) {
            const Notch& k = notches_[n];
            sections_[n] = k.depth > 0 ? dsp::designBand(dsp::BellKind::bell, std::min(k.hz, 0.45 * rate_), -k.depth,
                                                         params_.target(fbWidth), rate_)
                                       : dsp::Section{};
        }
    }
    void publish() noexcept {
        int used = 0;
        for (std::size_t n = 0; n < notches; ++n) {
            const Notch& k = notches_[n];
            used += k.depth > 0;
            shown_[2 * n].store(static_cast<float>(k.depth > 0 ? k.hz : 0), std::memory_order_relaxed);
            shown_[2 * n + 1].store(static_cast<float>(-k.depth), std::memory_order_relaxed);
        }
        count_.store(static_cast<float>(used), std::memory_order_relaxed);
    }
    dsp::HowlFinder finder_;
    dsp::Cascade filter_;
    std::array<dsp::Section, notches> sections_{};
    std::array<Notch, notches> notches_{};
    std::array<std::atomic<float>, 2 * notches> shown_{};
    std::atomic<float> count_{0};
    bool moving_ = false;
};

} // namespace

BlockKind declare() {
    BlockKind k;
    k.id = "feedback";
    k.label = "Feedback suppressor";
    k.group = Group::speech;
    k.purpose =
        "Finds notes at which microphone and loudspeaker ring, and holds each down with a narrow notch; frees it "
        "after a while.";
    k.params = [](const Shape& s) {
        auto specs = params(s);
        rows.append(specs, static_cast<int>(notches));
        return specs;
    };
    k.inputs = k.outputs = [](const Shape&) { return 1; };
    k.cost = [](const Shape&, double) { return Cost{55, 90e3}; };
    k.kernel = plainKernel<FeedbackKernel>();
    k.readouts = {{"notches", "Notches set", "", 0, notches}};
    k.picture = Picture::notches;
    k.glyph = Glyph::number;
    k.glyphParam = "depth";
    return k;
}

} // namespace loom::engine::feedback_block
