// Conversations of the demo's hall: who is there, what a first pass makes of it, and what the far end gets.
#ifndef Q_MOC_RUN
#include "engine/path_response.h"
#include "findings/findings.h"
#include "model/history.h"
#include "program/render.h"
#include "talk/first_pass.h"
#include "talk/group.h"
#include "talk/prove.h"
#include "trial/trial.h"
#endif
#include "models.h"
#include "sanitized.h"
#include "test.h"
#include <cmath>
#include <random>

using namespace loom;
using namespace loom::project;

using test::sanitized;

class TestTalk : public QObject {
    Q_OBJECT
    Project hall_; // the demo's, with a chair, somebody in the public, and its hearing loop given to it

    static SpaceOf space(const Project& p, const char* key, const char* state = "") {
        auto s = spaceSaid(p, key, state);
        if (!s)
            qFatal("%s", s.error().text().c_str());
        return *s;
    }
    static const engine::Program& program(const Project& p) { return *p.device("heddle")->program; }
    static Project after(const Project& p, const Edit& edit) {
        auto now = edit.make(p);
        if (!now)
            qFatal("%s", now.error().text().c_str());
        return *now;
    }
    static std::vector<std::string> idsOf(const FirstPass& pass, bool all) {
        std::vector<std::string> ids;
        for (const auto& one : pass.proposals)
            if (all || !one.byHand)
                ids.push_back(one.id);
        return ids;
    }
    static const Proposal* find(const FirstPass& pass, const std::string& id) {
        for (const auto& one : pass.proposals)
            if (one.id == id)
                return &one;
        return nullptr;
    }
    Project made() const { // with everything a first pass proposes
        const auto pass = firstPassOf(hall_, space(hall_, "council"));
        return after(hall_, takeFirstPass(pass, idsOf(pass, true)));
    }

  private slots:
    void initTestCase() {
        auto p = test::load(LOOM_HALL);
        QVERIFY(bool(p));
        hall_ = *p;
        hall_.device("heddle")->owners["out 5"] = "council";
        hall_.device("heddle")->owners["usb 2"] = "foyer";
        hall_.device("heddle")->setUp = {{"telServer", "calls.example"}, {"telName", "hall"}};
        hall_.device("chair-microphone")->role = "chair";
        hall_.room("council")->talkers = {{"public", "Public", 6, 8.2, 1.6, 60, {}}};
    }
    void whoIsThere() {
        const auto c = conversationOf(hall_, space(hall_, "council"));
        QCOMPARE(c.microphones.size(), 10u);
        const auto canopy = std::find_if(c.microphones.begin(), c.microphones.end(),
                                         [](const auto& m) { return m.device == "council-canopy"; });
        QVERIFY(canopy != c.microphones.end() && canopy->beams == 8 && canopy->source.empty());
        QCOMPARE(c.microphones[0].input.text(), std::string("heddle/in 1"));
        QCOMPARE(c.microphones[0].source, std::string("chair"));
        QVERIFY(c.groups.empty() && c.microphones[0].echo.empty());
        QCOMPARE(c.farEnds.size(), 1u);
        QVERIFY(c.farEnds[0].source == "far-end" && c.farEnds[0].destination == "far-send" &&
                c.farEnds[0].mutes.empty());
        std::map<std::string, int> kinds;
        for (const auto& l : c.listeners)
            ++kinds[nameOf(l.kind)];
        QCOMPARE(kinds["zone"], 4);
        QVERIFY(kinds["far end"] == 1 && kinds["hearing loop"] == 1 && kinds["recorder"] == 1);
        // An output's own entry goes before that of the input of its name.
        auto elsewhere = hall_;
        elsewhere.device("heddle")->owners["out 5 out"] = "foyer";
        for (const auto& l : conversationOf(elsewhere, space(elsewhere, "council")).listeners)
            QVERIFY(l.port != "out 5");
        // Tern, Plover and both: the microphones of both, and none of the hall's.
        QCOMPARE(conversationOf(hall_, space(hall_, "tern")).microphones.size(), 2u);
        const auto both = conversationOf(hall_, space(hall_, "tern+plover"));
        QCOMPARE(both.microphones.size(), 4u);
        QCOMPARE(both.state, std::string("joined"));
        QVERIFY(!spaceSaid(hall_, "tern+plover", "apart") && !spaceSaid(hall_, "nowhere"));
        QCOMPARE(space(hall_, "tern", "joined").key(), std::string("tern+plover"));
    }
    void firstPassMakesItAll() {
        const auto pass = firstPassOf(hall_, space(hall_, "council"));
        for (const char* id : {"lanes heddle", "far-end heddle/tel 1", "mixes heddle", "echo heddle", "group heddle",
                               "mute heddle", "mute-places council", "preamp heddle/delegate-4"})
            QVERIFY2(find(pass, id), id);
        QVERIFY(find(pass, "preamp heddle/delegate-4")->byHand); // somebody set 35 dB
        QVERIFY(!find(pass, "echo heddle")->byHand &&
                find(pass, "echo heddle")->reason.find("0.") != std::string::npos);
        const auto p = made();
        const auto c = conversationOf(p, space(p, "council"));
        QCOMPARE(c.groups.size(), 1u);
        QCOMPARE(c.groups[0].lanes.size(), 10u);
        QVERIFY(c.groups[0].heard.size() == 1 && !c.groups[0].heard[0].empty());
        for (const auto& m : c.microphones)
            QVERIFY2(m.group == 0 && !m.echo.empty(), m.device.c_str());
        QCOMPARE(c.farEnds.size(), 2u);
        for (const auto& f : c.farEnds)
            QVERIFY(f.mutes.size() == 1 && !f.source.empty() && !f.destination.empty());
        for (const auto& m : c.mutePlaces)
            QVERIFY(m.sets || m.shows);
        QCOMPARE(p.device("council-tap")->mutes.at("self"), std::string("sets"));
        QCOMPARE(p.device("council-canopy")->mutes.at("self"), std::string("shows"));
        // The chair goes first, and keeps its microphone open; what the canopy hears counts less.
        const auto& group = *program(p).find(c.groups[0].block);
        const int chair = c.microphones[0].lane + 1;
        QCOMPARE(c.microphones[0].device, std::string("chair-microphone"));
        const engine::BlockView now(group);
        QCOMPARE(now.look()[std::to_string(chair) + ".priority"], 1.0);
        QVERIFY(now.look()["home"] == chair && now.look()["last"] == 2);
        // Its own sound is left out for each far end; the other's is not, and who speaks goes to both.
        const auto level = [&](const std::string& from, const std::string& to) {
            const auto h = engine::pathResponse(program(p), {from, 0}, {to, 0}, {1000}, 48000);
            return h ? 20 * std::log10(std::max(std::abs(h->front()), 1e-9)) : -999;
        };
        const auto &usb = c.farEnds[0], &tel = c.farEnds[1];
        QVERIFY(level(usb.source, usb.destination) < -70 && level(tel.source, tel.destination) < -70);
        QVERIFY(level(usb.source, tel.destination) > -20 && level(tel.source, usb.destination) > -20);
        QVERIFY(level("delegate-3", usb.destination) > 20 && level("delegate-3", tel.destination) > 20);
        // The canceller knows what the far ends play, and nothing of the microphones.
        const auto& echo = *program(p).find(c.microphones[0].echo);
        const auto* reference = program(p).into({echo.id, echo.shape.at("channels")});
        QVERIFY(reference);
        const auto heard = [&](const std::string& source) {
            const auto h = engine::pathResponse(program(p), {source, 0}, reference->from, {1000}, 48000);
            return h && std::abs(h->front()) > 1e-3;
        };
        QVERIFY(heard(usb.source) && heard(tel.source) && !heard("chair") && !heard("delegate-8"));
        // It runs, nothing of it is a finding that was none before, and nothing is left to propose.
        for (const auto& f : check(p))
            QVERIFY2(f.dismissed(), f.reason.c_str());
        QVERIFY(firstPassOf(p, space(p, "council")).proposals.empty());
        // One step, and back.
        auto undone = hall_;
        History history(undone);
        QVERIFY(bool(history.run(takeFirstPass(pass, idsOf(pass, false)))));
        QVERIFY(!(undone == hall_));
        (void)history.undo();
        QVERIFY(undone == hall_);
    }
    // Closed, all together add half a decibel to the noise of the one that stays open; whoever is far from its talker
    // is turned up, and its noise with it.
    void closedOnesAddLittle() {
        const auto of = space(hall_, "council");
        const auto c = conversationOf(hall_, of);
        std::vector<const Conversation::Microphone*> all;
        double home = 0, others = 0;
        for (const auto& m : c.microphones) {
            all.push_back(&m);
            const auto& place = hall_.device(m.device)->place;
            double nearest = 1e9;
            for (const auto& v : modelOf(hall_, of.space, of.state).voices)
                nearest = std::min(nearest, std::hypot(v.at[0] - place.x, v.at[1] - place.y, v.at[2] - place.z));
            (m.role == "chair" ? home : others) += nearest * nearest;
        }
        const auto s = groupSetting(hall_, of, all);
        QCOMPARE(s.home, std::string("chair"));
        qInfo("depth %.1f dB", s.depth);
        const double added = others * std::pow(10, s.depth / 10) / home;
        QVERIFY2(added < 0.125 && added > 0.09, qPrintable(QString::number(added)));
        QVERIFY(s.depth < -24 && s.depth > -50); // else the range holds it, and the formula is not tried
    }
    void whatSomebodySetIsLeft() {
        auto p = made();
        // What the pass set itself is set anew where the design moves: a talker sits further away.
        for (auto& s : p.room("council")->seats)
            if (s.talks)
                s.radius += 0.25;
        const auto further = firstPassOf(p, space(p, "council"));
        const auto* preamp = find(further, "preamp heddle/delegate-2");
        QVERIFY(preamp && !preamp->byHand);
        // Once somebody has set it, it is shown and not ticked.
        p.device("heddle")->program->find("delegate-2.preamp")->values["gain"] = 31;
        const auto again = firstPassOf(p, space(p, "council"));
        QVERIFY(find(again, "preamp heddle/delegate-2") && find(again, "preamp heddle/delegate-2")->byHand);
        const auto taken = after(p, takeFirstPass(again, idsOf(again, false)));
        QCOMPARE(program(taken).find("delegate-2.preamp")->values.at("gain"), 31.0);
        QVERIFY(program(taken).find("delegate-3.preamp")->values.at("gain") >
                program(p).find("delegate-3.preamp")->values.at("gain"));
        // Left out: what needs it says so instead of doing half of it.
        const auto pass = firstPassOf(hall_, space(hall_, "council"));
        const auto part = after(hall_, takeFirstPass(pass, {"mute heddle"}));
        QVERIFY(conversationOf(part, space(part, "council")).farEnds[0].mutes.size() == 1);
        const auto none = firstPassOf(hall_, space(hall_, "foyer"));
        QVERIFY(none.proposals.empty() && none.cannot.size() == 1);
        QVERIFY(none.cannot[0].find("No microphone") != std::string::npos);
    }
    void allRoomsOneAfterAnother() {
        std::vector<std::size_t> told;
        const auto all = firstPassOfAll(hall_, [&](std::size_t i, std::size_t) { told.push_back(i); });
        QVERIFY(bool(all));
        QVERIFY(told.size() == spacesThatTalk(hall_).size() && told.front() == 0);
        QVERIFY(all->spaces >= 2 && all->proposals > 20 && all->byHand > 5);
        QCOMPARE(conversationOf(all->after, space(all->after, "council")).groups.size(), 1u);
        QCOMPARE(conversationOf(all->after, space(all->after, "tern")).groups.size(), 1u);
        // The same as one after another in the whole project.
        auto whole = hall_;
        for (const auto& s : spacesThatTalk(hall_)) {
            const auto pass = firstPassOf(whole, space(whole, s.key().c_str(), s.state ? s.state->id.c_str() : ""));
            if (const auto ids = idsOf(pass, false); !ids.empty())
                whole = after(whole, takeFirstPass(pass, ids));
        }
        QVERIFY(all->after == whole);
        const auto again = firstPassOfAll(all->after);
        QVERIFY(again && again->proposals == 0 && again->after == all->after);
        std::stop_source stop;
        QVERIFY(!firstPassOfAll(
            hall_, [&](std::size_t, std::size_t) { stop.request_stop(); }, stop.get_token()));
    }
    // Whatever is left out, the rest is done, or refused with the cure; and every single one alone.
    void anyOfItMayBeLeftOut() {
        const auto pass = firstPassOf(hall_, space(hall_, "council"));
        const auto all = idsOf(pass, true);
        int refused = 0;
        const auto tryIt = [&](const std::vector<std::string>& ids) {
            const auto then = takeFirstPass(pass, ids).make(hall_);
            if (!then) {
                ++refused;
                QVERIFY(!then.error().remedy.empty());
                return;
            }
            const auto order = engine::runningOrder(program(*then));
            QVERIFY2(bool(order), order ? "" : order.error().text().c_str());
            QVERIFY(bool(engine::compile(program(*then), 48000, {})));
        };
        for (const auto& id : all) {
            auto rest = all;
            std::erase(rest, id);
            tryIt(rest);
            tryIt({id});
        }
        QVERIFY(refused <= static_cast<int>(all.size())); // not all of them hang together
        QVERIFY(!takeFirstPass(pass, {}));
    }
    // A trial is the same sound as a program rendered alone; loudspeakers reach microphones by the room's response.
    void aTrialIsTheDesign() {
        const auto room = std::make_shared<RoomSound>();
        room->sources = {{{"treadle-4-hall", "out 1"}, nullptr, 10, "", 0}};
        room->targets = {{{"heddle", "in 2"}, "delegate-1-microphone", 1, {}}};
        room->responses = {std::make_shared<const std::vector<float>>(std::vector<float>{0, 0, 0.25f})};
        auto trial = Trial::make(hall_, room, {{"heddle", "usb 1"}});
        QVERIFY2(bool(trial), trial ? "" : trial.error().text().c_str());
        QVERIFY((*trial)->runner("heddle") && (*trial)->runner("treadle-4-hall") &&
                !(*trial)->runner("spindle-cellar"));
        std::mt19937 random(5);
        std::normal_distribution<float> hiss(0, 0.02f);
        auto clip = std::make_shared<dsp::AudioClip>();
        clip->rate = 48000;
        clip->channels.resize(1);
        for (int i = 0; i < 4800 / Trial::block * Trial::block; ++i)
            clip->channels[0].push_back(hiss(random));
        std::vector<float> out, amplified, heard;
        for (std::size_t at = 0; at < clip->frames(); at += Trial::block) {
            (*trial)->feed({"heddle", "usb 1"}, clip->channels[0].data() + at);
            (*trial)->step();
            const auto add = [](std::vector<float>& to, const float* from) {
                to.insert(to.end(), from, from + Trial::block);
            };
            add(out, (*trial)->left({"heddle", "out 1"}));
            add(amplified, (*trial)->left({"treadle-4-hall", "out 1"}));
            add(heard, (*trial)->heard(0));
        }
        // Where nothing is heard back, it is the program alone.
        auto deaf = std::make_shared<RoomSound>(*room);
        deaf->responses = {std::make_shared<const std::vector<float>>(std::vector<float>{0.0f})};
        auto alone = Trial::make(hall_, deaf, {{"heddle", "usb 1"}});
        std::vector<float> plain;
        for (std::size_t at = 0; at < clip->frames(); at += Trial::block) {
            (*alone)->feed({"heddle", "usb 1"}, clip->channels[0].data() + at);
            (*alone)->step();
            const auto* o = (*alone)->left({"heddle", "out 1"});
            plain.insert(plain.end(), o, o + Trial::block);
        }
        const auto rendered = render(hall_, *std::as_const(hall_).device("heddle"), {{"usb 1", clip}}, {"out 1"},
                                     static_cast<double>(clip->frames()) / 48000);
        QVERIFY(bool(rendered));
        double most = 0, error = 0;
        for (std::size_t i = 0; i < plain.size(); ++i)
            most = std::max(most, std::abs(double((*rendered)[0][i]))),
            error = std::max(error, std::abs(double(plain[i]) - (*rendered)[0][i]));
        QVERIFY2(most > 0.001 && error < 1e-6 * most + 1e-9, qPrintable(QString("%1 of %2").arg(error).arg(most)));
        QVERIFY(out != plain); // the loop is closed
        // A block and two samples later, at a quarter.
        for (std::size_t i = Trial::block + 2; i < heard.size(); ++i)
            QVERIFY(std::abs(heard[i] - 0.25f * amplified[i - Trial::block - 2]) < 1e-6f);
    }
    void longResponsesAreTheSameInAnySize() {
        std::mt19937 random(2);
        std::normal_distribution<float> hiss(0, 1);
        std::vector<float> h(6000), x(12800); // 64, 512 and 4096 samples
        for (auto* v : {&h, &x})
            for (float& s : *v)
                s = hiss(random);
        dsp::LongMatrix two(1, 1, 64);
        two.set(0, 0, h);
        for (std::size_t at = 0; at < x.size(); at += 64) {
            const float* in[] = {x.data() + at};
            std::vector<float> y(64);
            float* out[] = {y.data()};
            two.process(in, out);
            for (std::size_t i = 0; i < 64; i += 13) {
                double wanted = 0;
                for (std::size_t k = 0; k < h.size() && k <= at + i; ++k)
                    wanted += static_cast<double>(h[k]) * x[at + i - k];
                QVERIFY(std::abs(y[i] - wanted) < 2e-3);
            }
        }
    }
    void whatTheFarEndGets() {
        const auto speech = readSpeech(LOOM_SOURCE_DIR "/speech");
        QVERIFY(bool(speech));
        QCOMPARE(speech->voices.size(), 9u);
        QVERIFY(!readSpeech("/nowhere"));
        // Two who talk instead of ten, and three of the microphones: a third of the work.
        const auto small = [&](Project p) {
            for (auto& seats : p.room("council")->seats)
                seats.talks = false;
            p.room("council")->talkers.push_back({"chair", "Chair", 7, 1.7, 1.25, 60, {}});
            for (int i = 2; i <= 8; ++i)
                p.device("delegate-" + std::to_string(i) + "-microphone")->place.placed = false;
            return p;
        };
        if (sanitized) { // a minute of ten people takes minutes: it is begun, and stopped in the midst of it
            const auto p = small(made());
            std::stop_source stop;
            QVERIFY(!proveTalk(
                p, space(p, "council"), *speech,
                [&](double share) {
                    if (share > 0.15)
                        stop.request_stop();
                },
                stop.get_token()));
            return;
        }
        auto p = made();
        double last = 0;
        const auto proof = proveTalk(p, space(p, "council"), *speech, [&](double share) { last = share; });
        QVERIFY2(bool(proof), proof ? "" : proof.error().text().c_str());
        QVERIFY(last > 0.5);
        const auto& f = proof->figures;
        for (const auto& [id, v] : f)
            qInfo("%s %.2f %s", id.c_str(), v, proof->where.count(id) ? proof->where.at(id).c_str() : "");
        QVERIFY(f.at("echo") < -35 && f.at("echo-after") < -30);
        QVERIFY(f.at("opened") == 0 && f.at("noise-rise") < 1 && f.at("noise") < -50);
        QVERIFY(f.at("double-talk") < 1.5 && f.at("sti") > 0.6 && f.at("spare") >= 3);
        QVERIFY(f.at("steadiness") < 1.8 && f.at("syllable") < 40 && f.at("cut") <= 50);
        for (const auto& t : proof->talkers)
            QVERIFY2(t.sti < t.roomSti + 0.03, t.name.c_str());
        // It is kept, and stale once the design moves on.
        const auto sum = designSum(p);
        p.proofs.push_back(proof->kept("2026-11-30T08:00:00Z", sum));
        QCOMPARE(designSum(p), sum);
        p.device("heddle")->notes = "on the left";
        QCOMPARE(designSum(p), sum);
        p.device("heddle")->program->find("delegate-2.preamp")->values["gain"] = 31;
        QVERIFY(designSum(p) != sum);
        // Without the canceller the far end hears itself.
        const auto pass = firstPassOf(hall_, space(hall_, "council"));
        auto ids = idsOf(pass, true);
        std::erase(ids, "echo heddle");
        const auto bare = small(after(hall_, takeFirstPass(pass, ids)));
        const auto worse = proveTalk(bare, space(bare, "council"), *speech);
        QVERIFY2(bool(worse), worse ? "" : worse.error().text().c_str());
        qInfo("without a canceller: %.1f dB", worse->figures.at("echo"));
        QVERIFY(worse->figures.at("echo") > -35 && worse->figures.at("echo") > f.at("echo") + 10);
        const auto missed = worse->missed();
        QVERIFY(std::find(missed.begin(), missed.end(), "echo") != missed.end());
        // As it was before, it rings: that is told, and nothing else.
        const auto before = small(hall_);
        const auto rings = proveTalk(before, space(before, "council"), *speech);
        QVERIFY(rings && rings->figures.size() == 1 && rings->figures.at("spare") < 0);
        // Refused with the cure.
        const auto tern = proveTalk(hall_, space(hall_, "tern"), *speech);
        QVERIFY(!tern && tern.error().text().find("USB port") != std::string::npos);
        std::stop_source stop;
        stop.request_stop();
        QVERIFY(!proveTalk(p, space(p, "council"), *speech, {}, stop.get_token()));
    }
};
LOOM_TEST(tst_talk, TestTalk)
#include "tst_talk.moc"
