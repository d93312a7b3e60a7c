#include "talk/prove.h"
#include "acoustics/octaves.h"
#include "acoustics/pick_up.h"
#include "acoustics/speech_index.h"
#include "dsp/band_filters.h"
#include "dsp/real_fft.h"
#include "dsp/test_signals.h"
#include "talk/dialogue.h"
#include <algorithm>
#include <cmath>
#include <future>
#include <numeric>

namespace loom::project {

namespace {

constexpr double rate = Trial::rate;
constexpr std::size_t second = 48000;
constexpr std::size_t mostTalkers = 12; // that are tried one by one
constexpr std::size_t mostTogether = 5; // at once
constexpr double learnSeconds = 8;      // that a canceller has
constexpr double listenerA = 65;        // dB(A) at whom the far end listens: what the speech index is worked out for
constexpr double sweepFrom = 90, sweepTo = 12000;

std::size_t samples(double seconds) {
    return static_cast<std::size_t>(std::llround(seconds * rate)) / Trial::block * Trial::block;
}

double powerOf(const std::vector<float>& x, std::size_t from, std::size_t length) {
    double sum = 0;
    const auto end = std::min(x.size(), from + length);
    for (std::size_t i = from; i < end; ++i)
        sum += static_cast<double>(x[i]) * x[i];
    return end > from ? sum / static_cast<double>(end - from) : 0;
}

double decibelsOf(double power) {
    return 10 * std::log10(std::max(power, 1e-20));
}

std::span<const float> part(const std::vector<float>& x, std::size_t from, std::size_t length) {
    const auto begin = std::min(from, x.size());
    return {x.data() + begin, std::min(length, x.size() - begin)};
}

// What a run is about.
struct Setting {
    const Project& project;
    Conversation talk;
    std::shared_ptr<const RoomSound> room;
    SoundEnd input, output;              // of the far end
    std::vector<std::size_t> people{};   // sources of the room
    std::vector<int> microphoneOf{};     // of each of them: Conversation::microphones; -1: none hears it
    std::vector<std::size_t> targetOf{}; // and the target that it is
    const Speech& speech;
    const std::vector<float>* voice(std::size_t person) const { return &speech.voices[person % speech.voices.size()]; }
    Result<std::unique_ptr<Trial>> trial() const { return Trial::make(project, room, {input, output}); }
};

// The microphone that hears a person best: the most direct sound for what it hears of the room.
void assign(Setting& s) {
    for (std::size_t i = 0; i < s.room->sources.size(); ++i) {
        if (!s.room->sources[i].from.device.empty())
            continue;
        int best = -1;
        std::size_t at = 0;
        double most = 0;
        for (std::size_t t = 0; t < s.room->targets.size(); ++t) {
            const auto& target = s.room->targets[t];
            const auto mic = std::find_if(s.talk.microphones.begin(), s.talk.microphones.end(),
                                          [&](const auto& m) { return m.device == target.microphone; });
            if (mic == s.talk.microphones.end() || target.gain <= 0 || mic->source.empty())
                continue;
            float peak = 0;
            for (const float v : s.room->response(i, t))
                peak = std::max(peak, std::abs(v));
            if (const double heard = peak / target.gain; heard > most) {
                most = heard;
                best = static_cast<int>(mic - s.talk.microphones.begin());
                at = t;
            }
        }
        s.people.push_back(i);
        s.microphoneOf.push_back(best);
        s.targetOf.push_back(at);
    }
}

// ---- the conversation itself ----

struct Course { // when what happens
    std::size_t length = 0;
    std::size_t farAlone = 0, farLength = 0, quiet = 0, quietLength = 0;
    std::vector<std::size_t> turns{};    // of each person
    std::size_t turn = 0;                // length
    std::vector<std::size_t> together{}; // of 2, 3 ... at once
    std::size_t crowd = 0;               // length
    std::size_t both = 0, bothLength = 0, after = 0, afterLength = 0;
};

Course courseOf(std::size_t people) {
    Course c;
    std::size_t at = samples(0.5);
    c.farAlone = at, c.farLength = samples(learnSeconds + 4);
    at += c.farLength + samples(0.7);
    c.quiet = at, c.quietLength = samples(1.3);
    at += c.quietLength;
    c.turn = samples(2.5);
    for (std::size_t i = 0; i < std::min(people, mostTalkers); ++i, at += c.turn + samples(0.5))
        c.turns.push_back(at);
    c.crowd = samples(2);
    for (std::size_t n = 2; n <= std::min(people, mostTogether); ++n, at += c.crowd + samples(0.4))
        c.together.push_back(at);
    at += samples(0.4);
    c.both = at, c.bothLength = samples(5);
    at += c.bothLength;
    at += samples(0.25); // what is left of the last word dies away in the room
    c.after = at, c.afterLength = samples(3);
    c.length = at + c.afterLength;
    return c;
}

Dialogue sceneOf(const Setting& s, const Course& c) {
    Dialogue dialogue;
    dialogue.length = c.length;
    dialogue.farEnd = {{c.farAlone, c.farLength}, {c.both, c.after + c.afterLength - c.both}};
    for (std::size_t i = 0; i < c.turns.size(); ++i)
        dialogue.said.push_back({s.people[i], c.turns[i], c.turn, s.voice(i)});
    for (std::size_t n = 0; n < c.together.size(); ++n)
        for (std::size_t i = 0; i < n + 2; ++i)
            dialogue.said.push_back({s.people[i], c.together[n], c.crowd, s.voice(i)});
    dialogue.said.push_back({s.people[0], c.both, std::min(c.bothLength, c.turn), s.voice(0)});
    if (c.bothLength > c.turn) // and on
        dialogue.said.push_back({s.people[0], c.both + c.turn, c.bothLength - c.turn, s.voice(0)});
    return dialogue;
}

// Gains of microphones in a group over time, a value a block; empty: it is in none.
using Gains = std::vector<std::vector<float>>;

// When a word begins at its microphone: the first 5 ms within 13 dB of the loudest of its first second.
std::size_t beginOf(const std::vector<float>& own, std::size_t from, std::size_t length) {
    constexpr std::size_t piece = 240;
    std::vector<double> powers;
    for (std::size_t i = from; i + piece <= std::min(own.size(), from + length); i += piece)
        powers.push_back(powerOf(own, i, piece));
    const auto loudest = powers.empty() ? 0 : *std::max_element(powers.begin(), powers.end());
    for (std::size_t i = 0; i < powers.size(); ++i)
        if (powers[i] >= 0.05 * loudest)
            return from + i * piece;
    return from;
}

std::vector<float> weighted(const std::vector<float>& x) {
    auto y = x;
    for (const auto& section : dsp::designWeighting(dsp::Weighting::a, rate)) {
        dsp::SectionState state;
        for (float& v : y)
            v = static_cast<float>(state.step(section, v));
    }
    return y;
}

void judge(TalkProof& proof, const Setting& s, const Course& c, const Played& played, const Gains& gains) {
    auto& f = proof.figures;
    const auto sent = weighted(played.sent), far = weighted(played.said);
    // Echo: what is sent back while the far end talks alone, without the noise that is there anyway.
    const double noise = powerOf(sent, c.quiet, c.quietLength);
    const auto echo = [&](std::size_t from, std::size_t length) {
        return decibelsOf(
                   std::max(powerOf(sent, from, length) - noise, noise / 10)) - // what is lost in it is not known
               decibelsOf(powerOf(far, from, length));
    };
    const auto learned = samples(learnSeconds);
    f["echo"] = echo(c.farAlone + learned, c.farLength - learned);
    f["echo-after"] = echo(c.after, c.afterLength);
    f["noise"] = decibelsOf(noise);
    // Lanes that the far end alone opens, once it is known.
    double opened = 0;
    for (std::size_t m = 0; m < gains.size(); ++m) {
        const auto& lane = gains[m];
        bool was = !lane.empty() && lane[c.farAlone / Trial::block - 1] > -3; // the one that stays open
        for (std::size_t b = c.farAlone / Trial::block;
             b < (c.farAlone + c.farLength) / Trial::block && b < lane.size(); ++b) {
            const bool is = lane[b] > -3;
            opened += is && !was;
            was = is;
        }
    }
    if (!s.talk.groups.empty())
        f["opened"] = opened;
    // Each in turn.
    double mean = 0;
    for (std::size_t i = 0; i < c.turns.size(); ++i) {
        auto& t = proof.talkers[i];
        t.levelDb = 20 * std::log10(std::max(speechLevelA(part(played.sent, c.turns[i], c.turn), rate), 1e-10));
        mean += t.levelDb / static_cast<double>(c.turns.size());
    }
    const auto worst = [&](const char* id, double value, const std::string& who, bool most) {
        const auto it = f.find(id);
        if (it == f.end() || (most ? value > it->second : value < it->second))
            f[id] = value, proof.where[id] = who;
    };
    for (const auto& t : proof.talkers)
        worst("steadiness", std::abs(t.levelDb - mean), t.name, true);
    for (std::size_t n = 0; n < c.together.size(); ++n)
        worst("steadiness",
              std::abs(20 * std::log10(std::max(speechLevelA(part(played.sent, c.together[n], c.crowd), rate), 1e-10)) -
                       mean),
              std::to_string(n + 2) + " at once", true);
    for (const auto& t : proof.talkers)
        worst("syllable", t.lateMs, t.name, true), worst("cut", t.cutMs, t.name, true);
    if (s.talk.groups.empty())
        f.erase("syllable"), f.erase("cut"), proof.where.erase("syllable"), proof.where.erase("cut");
    // Double talk: how much of what this one's voice was alone is in what is sent now.
    double own = 0, both = 0;
    const auto length = std::min(c.turn, c.bothLength);
    for (std::size_t i = samples(0.3); i + samples(0.2) < length; ++i) {
        const double alone = sent[c.turns[0] + i];
        own += alone * alone;
        both += alone * sent[c.both + i];
    }
    if (own > 0)
        f["double-talk"] = std::abs(20 * std::log10(std::max(std::abs(both / own), 1e-6)));
}

Result<Done> converse(TalkProof& proof, const Setting& s, const std::function<void(double)>& progress,
                      std::stop_token stop) {
    const auto c = courseOf(s.people.size());
    const auto dialogue = sceneOf(s, c);
    const auto heard = heardIn(dialogue, *s.room, stop);
    auto trial = s.trial();
    if (!trial)
        return trial.error();
    if (stop.stop_requested())
        return Error{"was stopped", s.talk.name, ""};
    Gains gains(s.talk.microphones.size());
    std::vector<std::pair<std::shared_ptr<engine::Kernel>, int>> lanes; // by microphone
    for (const auto& m : s.talk.microphones) {
        auto* runner =
            m.group < 0 ? nullptr : (*trial)->runner(s.talk.groups[static_cast<std::size_t>(m.group)].device);
        lanes.emplace_back(runner ? runner->schedule()->kernel(s.talk.groups[static_cast<std::size_t>(m.group)].block)
                                  : nullptr,
                           1 + m.lane);
    }
    const auto played = play(
        **trial, dialogue, heard, s.input, s.output, s.speech.farEnd,
        [&](std::size_t at) {
            for (std::size_t m = 0; m < lanes.size(); ++m)
                if (lanes[m].first)
                    gains[m].push_back(lanes[m].first->readout(lanes[m].second));
            if (progress && at % (second * 4) < Trial::block)
                progress(static_cast<double>(at) / static_cast<double>(dialogue.length));
        },
        stop);
    if (stop.stop_requested())
        return Error{"was stopped", s.talk.name, ""};
    // When the first word of each came through its gate, and what was cut later.
    for (std::size_t i = 0; i < c.turns.size(); ++i) {
        const int mic = s.microphoneOf[i];
        if (mic < 0 || gains[static_cast<std::size_t>(mic)].empty())
            continue;
        // Its voice arrives with the direct sound.
        const auto& h = s.room->response(s.people[i], s.targetOf[i]);
        const auto direct = static_cast<std::size_t>(
            std::max_element(h.begin(), h.end(), [](float a, float b) { return std::abs(a) < std::abs(b); }) -
            h.begin());
        const auto& own = heard[s.targetOf[i]];
        const auto begins = beginOf(own, c.turns[i] + direct, second);
        const auto& lane = gains[static_cast<std::size_t>(mic)];
        std::size_t b = begins / Trial::block;
        while (b < lane.size() && lane[b] < -6 && b * Trial::block < c.turns[i] + c.turn)
            ++b;
        auto& t = proof.talkers[i];
        t.lateMs = std::max(0.0, (static_cast<double>(b * Trial::block) - static_cast<double>(begins)) / rate * 1000);
        double loudest = 0;
        for (std::size_t k = begins; k + 480 < c.turns[i] + c.turn; k += 480)
            loudest = std::max(loudest, powerOf(own, k, 480));
        for (std::size_t k = b * Trial::block; k + 480 < c.turns[i] + c.turn; k += 480)
            if (powerOf(own, k, 480) > loudest * 0.01 && lane[k / Trial::block] < -12)
                t.cutMs += 10;
    }
    judge(proof, s, c, played, gains);
    proof.sent = played.sent;
    for (std::size_t m = 0; m < gains.size(); ++m)
        if (!gains[m].empty())
            proof.lanes.push_back({s.talk.microphones[m].name, std::move(gains[m])});

    proof.seconds += static_cast<double>(dialogue.length) / rate;
    return Done{};
}

// ---- speech index ----

// Response from a person to the far end, by a sweep (ISO 18233) while the microphone that hears this one is open and
// the others are muted, as good as closed, which they are while this one speaks: a sweep would open them.
Result<std::vector<float>> responseTo(const Setting& s, std::size_t person, std::stop_token stop) {
    constexpr double settles = 0.3, sweep = 1.25, tail = 0.8; // s
    std::vector<float> x(samples(sweep));
    dsp::Sweep signal(sweepFrom, sweepTo, rate);
    for (float& v : x)
        v = static_cast<float>(signal.step(sweep));
    Dialogue dialogue;
    dialogue.noise = false;
    const auto begin = samples(settles), length = samples(settles + sweep + tail);
    dialogue.length = length;
    dialogue.said = {{s.people[person], begin, x.size(), &x, 6}};
    const auto heard = heardIn(dialogue, *s.room, stop);
    auto trial = s.trial();
    if (!trial)
        return trial.error();
    const auto* mic =
        s.microphoneOf[person] < 0 ? nullptr : &s.talk.microphones[static_cast<std::size_t>(s.microphoneOf[person])];
    for (std::size_t g = 0; g < s.talk.groups.size(); ++g)
        if (auto* runner = (*trial)->runner(s.talk.groups[g].device)) {
            const auto set = [&](const char* param, double value) {
                (void)runner->set(s.talk.groups[g].block, param, value);
            };
            set("threshold", 30), set("margin", 12), set("last", 2);
            if (mic && mic->group == static_cast<int>(g))
                set("home", mic->lane + 1);
            for (std::size_t lane = 0; lane < s.talk.groups[g].lanes.size(); ++lane)
                if (!mic || mic->group != static_cast<int>(g) || mic->lane != static_cast<int>(lane))
                    set((std::to_string(lane + 1) + ".mute").c_str(), 1);
        }
    const auto played = play(**trial, dialogue, heard, s.input, s.output, s.speech.farEnd, {}, stop);
    int size = 1;
    while (static_cast<std::size_t>(size) < length + x.size())
        size *= 2;
    dsp::RealFft in(size), out(size);
    std::fill_n(in.time(), size, 0.0f);
    std::fill_n(out.time(), size, 0.0f);
    for (std::size_t i = 0; i < x.size(); ++i) { // the dialogue's own edges belong to the sweep
        const auto near = std::min(i, x.size() - i);
        in.time()[i] = x[i] * (near < 480 ? static_cast<float>(near) / 480.0f : 1.0f);
    }
    for (std::size_t i = begin; i < played.sent.size(); ++i)
        out.time()[i - begin] = played.sent[i];
    in.forward(), out.forward();
    double most = 0;
    for (int k = 0; k < in.bins(); ++k)
        most = std::max(most, static_cast<double>(std::norm(in.spectrum()[k])));
    const float pressure =
        static_cast<float>(20e-6 * std::pow(10, (s.room->sources[s.people[person]].levelA + 6) / 20));
    for (int k = 0; k < in.bins(); ++k) {
        const auto i = in.spectrum()[k];
        out.spectrum()[k] *= std::conj(i) / (static_cast<float>(std::norm(i) + most * 1e-5) * pressure);
    }
    out.backward();
    std::vector<float> h(second);
    for (std::size_t i = 0; i < h.size(); ++i)
        h[i] = out.time()[i] / static_cast<float>(size);
    return h;
}

// The index of a response (full scale per Pa) with noise (dB of full scale by octave), for somebody who hears it at
// listenerA.
double indexOf(const std::vector<float>& response, double levelA, const acoustics::Bands& noise) {
    const auto m = acoustics::modulationOf(response, rate);
    const auto spoken = acoustics::speechAt(levelA);
    acoustics::Bands speech{}, rest = noise;
    for (std::size_t b = 0; b < acoustics::bandCount; ++b) {
        double power = 0;
        for (const double v : acoustics::octaveBand(response, acoustics::bandHz[b], rate))
            power += v * v;
        // A band of the response passes as many samples' power as its width: 1 for a factor of 1 at all frequencies.
        const double width = acoustics::bandHz[b] * (std::sqrt(2.0) - std::sqrt(0.5)) / (rate / 2);
        speech[b] = spoken[b] - 94 + decibelsOf(power / width);
    }
    const double up = listenerA - acoustics::aWeighted(speech);
    for (std::size_t b = 0; b < acoustics::bandCount; ++b)
        speech[b] += up, rest[b] += up;
    return acoustics::speechIndex(m, speech, rest);
}

acoustics::Bands octavesOf(std::span<const float> x) {
    acoustics::Bands all{};
    for (std::size_t b = 0; b < acoustics::bandCount; ++b) {
        double power = 0;
        for (const double v : acoustics::octaveBand(x, acoustics::bandHz[b], rate))
            power += v * v;
        all[b] = decibelsOf(power / std::max<double>(1, static_cast<double>(x.size())));
    }
    return all;
}

// ---- loops ----

// By how much more the loudspeakers might be heard at the microphones before it rings while two talk, up to `most` dB.
Result<double> spareOf(const Setting& s, double most, std::stop_token stop) {
    constexpr double step = 1.5;                         // dB
    const auto dies = [&](double more) -> Result<bool> { // away by 40 dB in two seconds
        auto louder = std::make_shared<RoomSound>(*s.room);
        const auto factor = static_cast<float>(std::pow(10, more / 20));
        for (std::size_t i = 0; i < louder->sources.size(); ++i)
            for (std::size_t t = 0; t < louder->targets.size() && !louder->sources[i].from.device.empty(); ++t) {
                auto h = louder->response(i, t);
                for (float& v : h)
                    v *= factor;
                louder->responses[i * louder->targets.size() + t] =
                    std::make_shared<const std::vector<float>>(std::move(h));
            }
        Setting one = s;
        one.room = louder;
        Dialogue dialogue;
        dialogue.noise = false;
        const auto talk = samples(1);
        dialogue.length = samples(3.5);
        for (std::size_t i = 0; i < std::min<std::size_t>(2, s.people.size()); ++i)
            dialogue.said.push_back({s.people[i], 0, talk, s.voice(i)});
        const auto heard = heardIn(dialogue, *louder, stop);
        auto trial = one.trial();
        if (!trial)
            return trial.error();
        double early = 0, late = 0;
        (void)play(
            **trial, dialogue, heard, s.input, s.output, s.speech.farEnd,
            [&](std::size_t at) {
                double loudest = 0;
                for (std::size_t t = 0; t < louder->targets.size(); ++t)
                    for (int i = 0; i < Trial::block; ++i)
                        loudest = std::max(loudest, std::abs(static_cast<double>((*trial)->heard(t)[i])));
                if (at < talk)
                    early = std::max(early, loudest);
                else if (at + samples(0.5) > dialogue.length)
                    late = std::max(late, loudest);
            },
            stop);
        return late <= early * 0.01;
    };
    // Between the last of which it is known that it dies away and the first of which it is known that it does not.
    int good = -1, bad = static_cast<int>(most / step) + 1;
    while (bad - good > 1 && !stop.stop_requested()) {
        const int middle = good < 0 ? 0 : (good + bad) / 2;
        const auto one = dies(middle * step);
        if (!one)
            return one.error();
        (*one ? good : bad) = middle;
    }
    return good < 0 ? -3.0 : good * step;
}

// ---- noise ----

// By how much the noise of all microphones is louder at the far end than that of the one that is open while nobody
// speaks; nothing if none is.
Result<std::optional<double>> noiseRise(const Setting& s, std::stop_token stop) {
    Dialogue quiet;
    quiet.length = samples(3);
    int open = -1; // a target
    const auto level = [&]() -> Result<double> {
        const auto heard = heardIn(quiet, *s.room, stop);
        auto trial = s.trial();
        if (!trial)
            return trial.error();
        const auto played = play(**trial, quiet, heard, s.input, s.output, s.speech.farEnd, {}, stop);
        for (const auto& m : s.talk.microphones) {
            const auto* g = m.group < 0 ? nullptr : &s.talk.groups[static_cast<std::size_t>(m.group)];
            auto* runner = g ? (*trial)->runner(g->device) : nullptr;
            const auto kernel = runner ? runner->schedule()->kernel(g->block) : nullptr;
            for (std::size_t t = 0; t < s.room->targets.size() && kernel && open < 0; ++t)
                if (s.room->targets[t].microphone == m.device && kernel->readout(1 + m.lane) > -3)
                    open = static_cast<int>(t);
        }
        return decibelsOf(powerOf(weighted(played.sent), samples(2), samples(1)));
    };
    if (s.talk.groups.empty()) // all are open: against that of the first talker
        open = static_cast<int>(s.targetOf[0]);
    const auto all = level();
    if (!all)
        return all.error();
    if (open < 0)
        return std::optional<double>();
    quiet.onlyNoiseOf = open;
    const auto one = level();
    if (!one)
        return one.error();
    return std::optional<double>(*all - *one);
}

} // namespace

Result<TalkProof> proveTalk(const Project& project, const SpaceOf& space, const Speech& speech,
                            const std::function<void(double)>& progress, std::stop_token stop) {
    const Project here = space.at(project);
    Setting s{here, conversationOf(project, space), nullptr, {}, {}, {}, {}, {}, speech};
    const auto& c = s.talk;
    const auto far = std::find_if(c.farEnds.begin(), c.farEnds.end(),
                                  [](const auto& f) { return !f.source.empty() && !f.destination.empty(); });
    if (far == c.farEnds.end())
        return Error{"no far end hears and is heard", c.name,
                     "Give the space a USB port or a telephone line, as a source and a destination of its processor."};
    s.input = s.output = {far->device, far->port};
    const int threads = static_cast<int>(std::clamp(std::thread::hardware_concurrency(), 1u, 16u));
    s.room = std::make_shared<const RoomSound>(
        roomSoundOf(project, space.space, space.state, {rate, Voices::all, 0.5, threads}, stop));
    if (stop.stop_requested())
        return Error{"was stopped", c.name, ""};
    assign(s);
    if (s.people.empty())
        return Error{"nobody talks there", c.name, "Place a talker, or seats from which people talk."};
    if (std::all_of(s.microphoneOf.begin(), s.microphoneOf.end(), [](int m) { return m < 0; }))
        return Error{"no microphone is led to a program", c.name, "Give its microphones inputs of a processor."};
    TalkProof proof;
    proof.space = c.space, proof.state = c.state, proof.farEnd = far->name;
    const auto count = std::min(s.people.size(), mostTalkers);
    for (std::size_t i = 0; i < count; ++i) {
        const int m = s.microphoneOf[i];
        proof.talkers.push_back({s.room->sources[s.people[i]].name,
                                 m < 0 ? "" : c.microphones[static_cast<std::size_t>(m)].name, 0, 0, 0, 0, 0});
    }
    // The conversation on one core, responses and loops on another.
    std::vector<std::vector<float>> responses(count);
    std::optional<Error> wrong;
    double spare = 0;
    std::optional<double> rise;
    auto beside = std::async(std::launch::async, [&] {
        for (std::size_t i = 0; i < count && !wrong; ++i) {
            auto h = responseTo(s, i, stop);
            h ? void(responses[i] = std::move(*h)) : void(wrong = h.error());
        }
        if (auto one = spareOf(s, 12, stop); one)
            spare = *one;
        else
            wrong = one.error();
        if (wrong || spare < 0)
            return;
        if (auto one = noiseRise(s, stop); one)
            rise = *one;
        else
            wrong = one.error();
    });
    const auto done = converse(proof, s, progress, stop);
    beside.get();
    if (!done)
        return done.error();
    if (wrong)
        return *wrong;
    if (stop.stop_requested())
        return Error{"was stopped", c.name, ""};
    if (spare < 0) { // it rings: nothing else means anything
        proof.figures.clear();
        proof.where.clear();
    }
    proof.figures["spare"] = spare;
    if (spare < 0)
        return proof;
    if (rise)
        proof.figures["noise-rise"] = *rise;
    const auto course = courseOf(s.people.size());
    const auto noise = octavesOf(part(proof.sent, course.quiet, course.quietLength));
    for (std::size_t i = 0; i < count; ++i) {
        auto& t = proof.talkers[i];
        const double levelA = s.room->sources[s.people[i]].levelA;
        t.sti = indexOf(responses[i], levelA, noise);
        t.roomSti = indexOf(s.room->response(s.people[i], s.targetOf[i]), levelA, s.room->targets[s.targetOf[i]].noise);
        if (i == 0 || t.sti < proof.figures["sti"])
            proof.figures["sti"] = t.sti, proof.where["sti"] = t.name;
    }
    return proof;
}

} // namespace loom::project
