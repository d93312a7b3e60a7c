// Automatic mixer: opens the microphones of those who speak and leaves the others closed, or shares one gain among all.
#include "dsp/dynamics.h"
#include "engine/blocks/common.h"
#include <algorithm>
#include <cmath>

namespace loom::engine::automixer_block {
namespace {

ParamSet params; // in a shape of two lanes
const Param amMode = params.add(gliding(choiceParam("mode", "Way", {"gated", "gain sharing"})));
const Param amThreshold = params.add(glidingLevel("threshold", "Opens above the noise by", 3, 30, 9));
const Param amMargin = params.add(glidingLevel("margin", "Opens above what leaks by", 0, 12, 4));
const Param amDecay = params.add(secondsParam("decay", "Decay of the room", 0.1, 5, 0.8));
const Param amAttack = params.add(timeParam("attack", "Attack", 1, 100, 4));
const Param amHold = params.add(timeParam("hold", "Hold", 0, 5000, 400));
const Param amRelease = params.add(timeParam("release", "Release", 10, 3000, 250));
const Param amDepth = params.add(glidingLevel("depth", "Depth when closed", -80, 0, -18));
const Param amLimit = params.add({"limit", "Open microphones at most", Unit::none, 1, 2, 2, 1});
const Param amLock = params.add(onOffParam("lock", "Who speaks keeps the floor", false));
const Param amLast = params.add(
    choiceParam("last", "When nobody speaks", {"all close", "the latest stays open", "a chosen lane stays open"}, 1));
const Param amHome = params.add({"home", "The chosen lane", Unit::none, 1, 2, 1, 1});
const Param amNom = params.add(onOffParam("nom", "NOM attenuation", true));
const Param amPriorityDepth = params.add(glidingLevel("priority-depth", "Priority turns others down by", 0, 80, 12));
const Param amDirect = params.add(gliding(choiceParam("direct", "Direct outputs", {"before", "after"}, 1)));
ParamRows rows;
std::string id(int number, const char* field) {
    return std::to_string(number) + field;
}
std::string label(int number, const char* field) {
    return "Lane " + std::to_string(number) + field;
}
const auto laneWeight = rows.add([](int n) { return glidingLevel(id(n, ".weight"), label(n, " weight"), -12, 12, 0); });
const auto lanePriority =
    rows.add([](int n) { return gliding(onOffParam(id(n, ".priority"), label(n, " priority"), false)); });
const auto laneBehind = rows.add(
    [](int n) { return gliding(onOffParam(id(n, ".behind"), label(n, " opens only while no other does"), false)); });
const auto laneMute = rows.add([](int n) { return gliding(onOffParam(id(n, ".mute"), label(n, " mute"), false)); });

constexpr float firstLeak = 0.16f, leastLeak = 1e-4f, mostLeak = 0.5f; // -8, -40 and -3 dB
constexpr double claimSeconds = 0.008, staying = 0.63;                 // 2 dB
// What a knock is known by: nothing goes on. Who has spoken for so long is believed, and is held the longer.
constexpr double believedAfter = 0.12, mostSpoken = 0.6, forgetsBy = 0.3; // s, s, s of each second of silence
constexpr double settleSeconds = 0.1;
constexpr double firstHold = 0.05, holdOfSpoken = 1.5, shortRelease = 0.06; // s, s for each second, s
constexpr double ownDecay = 0.1;                                            // -10 dB: below it the room dies away
constexpr float firstHeard = 100, leastHeard = 1e-6f, mostHeard = 1e4f;     // 20, -60 and +40 dB
constexpr double heardClaim = 0.03; // s that somebody has to stand out of what the loudspeakers play
constexpr double newSeconds = 3;    // of what loudspeakers play: until then little is known
constexpr double heardAt = 1e-7, learnAt = 1e-5, farBelow = 16, alikeOpen = 0.8,
                 alikeSeconds = 0.5; // -70, -50 dBFS; a correlation

int lanesOf(const Shape& s) {
    return countOf(s, "lanes");
}
int heardOf(const Shape& s) {
    return countOf(s, "heard");
}

// Decisions are made once a frame (1.3 ms at 48 kHz). A lane opens when its level stands `threshold` over its own noise
// floor, and `margin` over what reaches it from the others: a voice is heard by every microphone of a room, but by its
// own first and strongest. How much leaks from lane to lane is learned while one speaks. What a lane has heard is
// remembered with the room's own decay, so that reverberation, which is as loud everywhere, opens nothing. What the
// loudspeakers play comes in beside the lanes: how much of it a lane hears is learned as well, as long as the lane's
// level goes up and down with theirs. Knocks, paper and keys are over at once: a lane is held the longer the longer
// somebody has spoken there, and takes nobody's place before.
class AutomixerKernel final : public Kernel {
  public:
    AutomixerKernel(const ParamTable& t, const std::vector<double>& v, double rate, int lanes, int heard)
        : Kernel(t, v, rate), lanes_(static_cast<std::size_t>(lanes)), heard_(static_cast<std::size_t>(heard)),
          ways_(lanes_.size() * heard_.size()), lowCut_(std::exp(-2 * dsp::pi * 250 / rate)),
          leakage_(lanes_.size() * lanes_.size(), firstLeak) {}
    float readout(int which) const noexcept override {
        if (which == 0)
            return shownOpen_.load(std::memory_order_relaxed);
        const auto l = static_cast<std::size_t>(which - 1);
        return l < lanes_.size() ? lanes_[l].shown.load(std::memory_order_relaxed) : 0;
    }

  private:
    struct Lane {
        double last = 0, low = 0;                          // speech band filter
        double level = 1e-12, floor = 1e-6, reference = 0; // powers
        double quick = 0, own = 0;                         // the same in a moment; what of it dies away in the room
        double held = 0, openedAt = -1, claim = 0;         // seconds
        double spoken = 0;                                 // seconds, lately
        double open = 0, gain = 0;                         // 0..1; gain as applied
        bool wantsOpen = false, stayed = false;            // stayed: was open while nobody spoke
        std::atomic<float> shown{-200};
        Lane() = default;
    };
    struct Heard { // what loudspeakers play
        double last = 0, low = 0, level = 1e-12, reference = 0;
    };
    struct HeardWay { // from there to a lane
        float leak = firstHeard;
        double known = 0;                                  // seconds
        double x = -120, y = -120, xx = 0, yy = 0, xy = 0; // levels in dB: means, and how they move together
    };
    HeardWay& way(std::size_t lane, std::size_t heard) { return ways_[lane * heard_.size() + heard]; }
    double laneParam(std::size_t lane, ParamRows::Field field) const {
        return params_.now(rows.at(params.size(), static_cast<int>(lane), field));
    }

    void process(Inputs in, Outputs out, int frames) noexcept override {
        const double perSecond = rate_ / frames;
        now_ += 1 / perSecond;
        follow(in, frames, perSecond);
        if (params_.target(amMode) < 0.5)
            decide(perSecond);
        applyGains(in, out, frames, perSecond);
    }

    // Levels in the band where speech stands out, weighted; and each lane's noise floor.
    void follow(Inputs in, int frames, double perSecond) {
        const double fall = dsp::onePole(0.040, perSecond), slow = dsp::gainFromDb(3.0 / perSecond / 2),
                     sink = dsp::onePole(0.010, perSecond);
        for (std::size_t h = 0; h < heard_.size(); ++h) {
            Heard& one = heard_[h];
            const double power = powerOf(in[lanes_.size() + h], frames, one.low) / frames + 1e-12;
            one.level = power > one.level ? power : one.level + fall * (power - one.level);
        }
        // What takes an echo away takes noise with it, which is back as soon as the far end falls silent.
        const bool playing =
            std::any_of(heard_.begin(), heard_.end(), [](const Heard& h) { return h.reference > heardAt; });
        for (std::size_t l = 0; l < lanes_.size(); ++l) {
            Lane& lane = lanes_[l];
            const double sum = powerOf(in[l], frames, lane.low);
            const bool mute = laneParam(l, laneMute) >= 0.5;
            const double power = mute ? 1e-12 : sum / frames * dsp::gainFromDb(2 * laneParam(l, laneWeight)) + 1e-12;
            lane.level = power > lane.level ? power : lane.level + fall * (power - lane.level);
            lane.quick = power > lane.quick ? power : lane.quick + sink * (power - lane.quick);
            // Down within a tenth of a second, up 3 dB a second, 0.75 of an open lane: the floor of the quiet moments.
            // At the very beginning it is what is there.
            if (now_ < settleSeconds)
                lane.floor = std::max(lane.level, 1e-9);
            else if (lane.level < lane.floor)
                lane.floor += playing ? 0 : dsp::onePole(0.1, perSecond) * (lane.level - lane.floor);
            else
                lane.floor = std::min(lane.floor * (lane.wantsOpen ? std::sqrt(slow) : slow * slow), lane.level);
        }
    }

    // Of the band where speech stands out.
    double powerOf(const float* in, int frames, double& low) const {
        double sum = 0;
        for (int i = 0; i < frames; ++i) {
            low = lowCut_ * low + (1 - lowCut_) * in[i];
            const double y = in[i] - low;
            sum += y * y;
        }
        if (std::isfinite(sum))
            return sum;
        low = 0;
        return 0;
    }

    void decide(double perSecond) {
        const double decay = std::pow(10.0, -6.0 / (params_.target(amDecay) * perSecond)); // 60 dB in the decay time
        std::size_t loudest = 0;
        for (std::size_t l = 0; l < lanes_.size(); ++l) {
            lanes_[l].reference = std::max(lanes_[l].level, lanes_[l].reference * decay);
            lanes_[l].own = std::max(lanes_[l].quick, lanes_[l].own * decay);
            if (lanes_[l].reference > lanes_[loudest].reference)
                loudest = l;
        }
        learnLeakage(loudest, perSecond);
        for (auto& h : heard_)
            h.reference = std::max(h.level, h.reference * decay);
        learnHeard(perSecond);
        const double over = dsp::gainFromDb(2 * params_.now(amThreshold)),
                     near = dsp::gainFromDb(2 * params_.now(amMargin)), hold = params_.target(amHold) / 1000;
        const bool locked = params_.target(amLock) >= 0.5; // to the one who has it, and to lanes with priority
        bool taken = false; // somebody has the floor: who comes later must claim it for a moment
        for (const auto& lane : lanes_)
            taken = taken || lane.wantsOpen;
        for (std::size_t l = 0; l < lanes_.size(); ++l) {
            Lane& lane = lanes_[l];
            const bool speaks = lane.level > lane.floor * over && lane.level > 1e-9;
            // An open lane stays open on a little less, so that two who talk at once do not flicker.
            const double others = std::max(leakedInto(l), heardInto(l));
            const bool strong = lane.level >= others * (lane.wantsOpen ? near * staying : near);
            lane.claim = speaks && strong ? lane.claim + 1 / perSecond : 0;
            const bool fresh = lane.quick > lane.own * ownDecay; // not only dying away
            const bool goesOn = strong && fresh && lane.quick > lane.floor * over && lane.quick > 1e-9;
            lane.spoken = std::clamp(lane.spoken + (goesOn ? 1 : -forgetsBy) / perSecond, 0.0, mostSpoken);
            const bool may = (!taken || (locked ? laneParam(l, lanePriority) >= 0.5 : lane.claim > claimSeconds)) &&
                             (heardInto(l) < lane.floor * over || lane.claim > heardClaim);
            if (speaks && strong && fresh && !lane.wantsOpen && may) {
                lane.openedAt = now_;
                lane.wantsOpen = true;
                lane.held = std::min(hold, firstHold);
                taken = taken || locked; // two who begin at once: the first lane has it
            } else if (goesOn && lane.wantsOpen) {
                lane.held = std::max(lane.held, std::min(hold, firstHold + holdOfSpoken * lane.spoken));
            } else {
                lane.held -= 1 / perSecond;
                lane.wantsOpen = lane.wantsOpen && lane.held > 0;
            }
        }
        standBehind();
        limitOpen();
        holdLast();
    }

    // An array hears those at the table as well, later and with the room: it is open only while none of them is.
    void standBehind() {
        const auto isBehind = [&](std::size_t l) { return laneParam(l, laneBehind) >= 0.5; };
        bool front = false;
        for (std::size_t l = 0; l < lanes_.size(); ++l)
            front = front || (lanes_[l].wantsOpen && !isBehind(l) && lanes_[l].spoken >= believedAfter);
        for (std::size_t l = 0; l < lanes_.size() && front; ++l)
            if (isBehind(l))
                lanes_[l].wantsOpen = false;
    }

    float& leakage(std::size_t into, std::size_t from) { return leakage_[into * lanes_.size() + from]; }
    double leakedInto(std::size_t l) {
        double most = 0;
        for (std::size_t k = 0; k < lanes_.size(); ++k)
            if (k != l)
                most = std::max(most, leakage(l, k) * lanes_[k].reference);
        return most;
    }
    // How much of the loudest open lane's voice the closed lanes hear: rises 40 dB a second, falls 2 dB a second, so
    // that it stands for the strongest of what leaks.
    void learnLeakage(std::size_t from, double perSecond) {
        if (!lanes_[from].wantsOpen)
            return;
        const auto up = static_cast<float>(std::pow(10.0, 4 / perSecond)),
                   down = static_cast<float>(std::pow(10.0, -0.2 / perSecond));
        for (std::size_t l = 0; l < lanes_.size(); ++l) {
            if (l == from || lanes_[l].wantsOpen)
                continue;
            float& leak = leakage(l, from);
            leak =
                std::clamp(leak * (lanes_[l].level > leak * lanes_[from].reference ? up : down), leastLeak, mostLeak);
        }
    }

    double heardInto(std::size_t l) {
        double most = 0;
        for (std::size_t h = 0; h < heard_.size(); ++h)
            most = std::max(most, static_cast<double>(way(l, h).leak) * heard_[h].reference);
        return most;
    }
    // How much of what loudspeakers play each lane hears: up 200 dB a second, down 1.5 dB a second, 6 if it is far
    // below, 20 at the very beginning. Of an open lane only while its level moves with theirs: there is no doubt that
    // it hears nothing else.
    void learnHeard(double perSecond) {
        const auto up = static_cast<float>(std::pow(10.0, 20 / perSecond)),
                   down = static_cast<float>(std::pow(10.0, -0.15 / perSecond)),
                   far = static_cast<float>(std::pow(10.0, -0.6 / perSecond)),
                   first = static_cast<float>(std::pow(10.0, -2 / perSecond));
        const double pull = dsp::onePole(alikeSeconds, perSecond);
        for (std::size_t h = 0; h < heard_.size(); ++h) {
            const double x = 10 * std::log10(heard_[h].level);
            const bool sounds = heard_[h].level > learnAt && heard_[h].level > heard_[h].reference * 0.1;
            for (std::size_t l = 0; l < lanes_.size(); ++l) {
                HeardWay& w = way(l, h);
                const double y = 10 * std::log10(lanes_[l].level), dx = x - w.x, dy = y - w.y;
                w.x += pull * dx, w.y += pull * dy;
                w.xx += pull * (dx * dx - w.xx), w.yy += pull * (dy * dy - w.yy), w.xy += pull * (dx * dy - w.xy);
                if (!sounds)
                    continue;
                w.known = std::min(newSeconds, w.known + 1 / perSecond);
                const double alike = w.xy / std::sqrt(w.xx * w.yy + 1e-6);
                const double own = std::max(0.0, lanes_[l].level - 2 * lanes_[l].floor); // noise is no echo
                const bool more = own > w.leak * heard_[h].reference;
                if (more && (!lanes_[l].wantsOpen || alike > alikeOpen))
                    w.leak = std::min(w.leak * up, mostHeard);
                else if (!more)
                    w.leak = std::max(w.leak * (w.known < newSeconds                            ? first
                                                : own * farBelow < w.leak * heard_[h].reference ? far
                                                                                                : down),
                                      leastHeard);
            }
        }
    }

    // No more than so many open at once: those with priority first, then the strongest. Who has only just begun is
    // not counted yet: it may be a knock.
    void limitOpen() {
        const int limit = static_cast<int>(params_.target(amLimit));
        for (;;) {
            int open = 0;
            std::size_t weakest = lanes_.size();
            for (std::size_t l = 0; l < lanes_.size(); ++l) {
                if (!lanes_[l].wantsOpen || (lanes_[l].spoken < believedAfter && !isFirst(l)))
                    continue;
                ++open;
                const auto rank = [&](std::size_t i) {
                    return std::pair(laneParam(i, lanePriority) >= 0.5, lanes_[i].level);
                };
                if (weakest == lanes_.size() || rank(l) < rank(weakest))
                    weakest = l;
            }
            if (open <= limit || weakest == lanes_.size())
                return;
            lanes_[weakest].wantsOpen = false;
        }
    }

    bool isFirst(std::size_t lane) const { // none that is believed is open beside it
        for (std::size_t l = 0; l < lanes_.size(); ++l)
            if (l != lane && lanes_[l].wantsOpen && lanes_[l].spoken >= believedAfter)
                return false;
        return true;
    }

    // When nobody speaks, the last microphone (or a chosen one) stays open: a far end takes silence for a dropped call.
    void holdLast() {
        std::size_t latest = lanes_.size();
        for (std::size_t l = 0; l < lanes_.size(); ++l)
            if (lanes_[l].wantsOpen) {
                if (latest == lanes_.size() || lanes_[l].openedAt > lanes_[latest].openedAt)
                    latest = l;
            }
        if (latest < lanes_.size()) {
            lastOpen_ = latest;
            stay_ = lanes_.size();
        } else if (const int how = static_cast<int>(params_.target(amLast)); how > 0)
            stay_ = how == 1 ? lastOpen_
                             : std::min(lanes_.size() - 1, static_cast<std::size_t>(params_.target(amHome)) - 1);
        else
            stay_ = lanes_.size();
    }

    void applyGains(Inputs in, Outputs out, int frames, double perSecond) {
        const double sharing = params_.now(amMode); // from one way to the other in a glide
        const double attack = 1 / std::max(1.0, params_.target(amAttack) / 1000 * perSecond),
                     releaseSeconds = params_.target(amRelease) / 1000, closed = dsp::gainFromDb(params_.now(amDepth));
        double total = 1e-12, open = 0, priority = 0;
        for (std::size_t l = 0; l < lanes_.size(); ++l) {
            Lane& lane = lanes_[l];
            total += lane.level;
            const double goal = lane.wantsOpen || l == stay_ ? 1 : 0;
            // After a knock it closes faster.
            lane.stayed = l == stay_ || (lane.stayed && !lane.wantsOpen);
            const double release = lane.stayed ? releaseSeconds : std::min(releaseSeconds, shortRelease + lane.spoken);
            // One that opens only to stay open is in no hurry.
            const double opens = lane.wantsOpen ? attack : std::min(attack, 1 / std::max(1.0, 0.05 * perSecond));
            lane.open += std::clamp(goal - lane.open, -1 / std::max(1.0, release * perSecond), opens);
            open += lane.open;
            if (lane.wantsOpen) // one that stays open while nobody speaks turns nobody down
                priority = std::max(priority, lane.open * laneParam(l, lanePriority));
        }
        // Number of open microphones: with every doubling the sum comes down by 3 dB.
        const double nomGoal = params_.target(amNom) >= 0.5 ? 1 / std::sqrt(std::max(1.0, open)) : 1.0;
        nom_ += dsp::onePole(0.05, perSecond) * (nomGoal - nom_);
        priority_ += dsp::onePole(0.01, perSecond) * (priority - priority_);
        const double under = dsp::gainFromDb(-priority_ * params_.now(amPriorityDepth));
        float mixed[maxFrame]{};
        int shownOpen = 0;
        const double after = params_.now(amDirect);
        for (std::size_t l = 0; l < lanes_.size(); ++l) {
            Lane& lane = lanes_[l];
            // From the closed depth to open in a straight line of decibels, as the ear counts.
            const bool shut = closed <= 1.0001e-4 && lane.open <= 0; // -80 dB
            double gain = shut ? 0 : (1 - sharing) * std::pow(closed, 1 - lane.open) * nom_;
            if (sharing > 0)
                gain += sharing * std::sqrt(lane.level / total);
            gain *= under + laneParam(l, lanePriority) * (1 - under);
            gain *= 1 - laneParam(l, laneMute);
            const double from = lane.gain, step = (gain - from) / frames;
            for (int i = 0; i < frames; ++i) {
                const auto y = static_cast<float>(in[l][i] * (from + step * (i + 1)));
                mixed[i] += y;
                out[1 + l][i] = static_cast<float>(in[l][i] + after * (y - in[l][i]));
            }
            lane.gain = gain;
            shownOpen += lane.open > 0.5;
            lane.shown.store(static_cast<float>(dsp::dbFromGain(gain)), std::memory_order_relaxed);
        }
        std::copy_n(mixed, frames, out[0]);
        shownOpen_.store(static_cast<float>(shownOpen), std::memory_order_relaxed);
    }

    std::vector<Lane> lanes_;
    std::vector<Heard> heard_;
    std::vector<HeardWay> ways_; // lane by lane
    double lowCut_, now_ = 0, nom_ = 1, priority_ = 0;
    std::vector<float> leakage_; // power ratio at a lane (row) of what is loudest at another (column)
    std::size_t lastOpen_ = 0, stay_ = SIZE_MAX;
    std::atomic<float> shownOpen_{0};
};

std::vector<ParamSpec> automixerParams(const Shape& s) {
    auto specs = params(s);
    const double most = std::max(2.0, static_cast<double>(lanesOf(s)));
    specs[static_cast<std::size_t>(amLimit)].max = specs[static_cast<std::size_t>(amHome)].max = most;
    specs[static_cast<std::size_t>(amLimit)].def = std::min(4.0, most);
    rows.append(specs, lanesOf(s));
    return specs;
}

} // namespace

BlockKind declare() {
    BlockKind k;
    k.id = "automixer";
    k.label = "Automatic mixer";
    k.group = Group::speech;
    k.purpose = "Opens the microphones of those who speak. The first output is the mix, the others are the lanes.";
    k.shape = {{"lanes", "Lanes", 8, 1, 64}, {"heard", "Loudspeakers it hears", 0, 0, 4}};
    k.params = automixerParams;
    k.inputs = [](const Shape& s) { return lanesOf(s) + heardOf(s); };
    k.outputs = [](const Shape& s) { return 1 + lanesOf(s); };
    k.cost = [](const Shape& s, double) {
        return Cost{7.3 * lanesOf(s) + heardOf(s) * (2 + 0.8 * lanesOf(s)), 200.0 * lanesOf(s)};
    };
    k.kernel = [](const KernelSetup& s, const ParamTable& t, const std::vector<double>& v) -> std::unique_ptr<Kernel> {
        return std::make_unique<AutomixerKernel>(t, v, s.rate, lanesOf(s.shape), heardOf(s.shape));
    };
    k.portName = [](const Shape& s, bool input, int port) {
        if (input && port >= lanesOf(s))
            return "loudspeakers" + (port == lanesOf(s) ? "" : " " + std::to_string(port - lanesOf(s) + 1));
        return input ? std::to_string(port + 1) : port == 0 ? std::string("mix") : std::to_string(port);
    };
    k.readouts = {{"open", "Open lanes", "", 0, 8}};
    k.passes = [](const Shape& s, int in, int out) { return in < lanesOf(s) && (out == 0 || out == in + 1); };
    k.picture = Picture::lanes;
    k.glyph = Glyph::weave;
    return k;
}

} // namespace loom::engine::automixer_block
