// Rules on devices: what goes to each, that they run there as they were rehearsed, over the line between devices,
// through power cuts and wrong clocks.
#ifndef Q_MOC_RUN
#include "../rules/rules_demo.h"
#include "rig/clock.h"
#include "rig/rig.h"
#include "rules/rule_home.h"
#include "rules/rule_pack.h"
#include <nlohmann/json.hpp>
#include <random>
#endif
#include "sanitized.h"
#include "test.h"
#include <QDir>
#include <QElapsedTimer>
#include <QTemporaryDir>
#include <QWebSocket>

using namespace loom;
using namespace loom::project;
using nlohmann::json;

namespace {

// Two rooms, each with a processor; the wall's latch hangs on that of oak.
Project twoBoxes() {
    auto p = test::rulesProject();
    p.device("box")->contacts = {{"contact 1", "wall fold oak+elm"}};
    auto other = *p.device("box");
    other.id = "other", other.name = "Other", other.model = "heddle-8", other.room = "elm", other.contacts.clear();
    p.devices.push_back(other);
    return p;
}

void scene(Project& p, const char* id, const char* room, std::map<std::string, double> values, double fade = 0) {
    Scene s;
    s.id = s.name = id, s.room = room, s.values = std::move(values), s.fade = fade;
    p.scenes.push_back(s);
}

} // namespace

class TestRulesRig : public QObject {
    Q_OBJECT
    // Devices remember often; where there is one, on a disk that takes no time.
    QTemporaryDir folder_{QDir("/dev/shm").exists() ? "/dev/shm/loom-XXXXXX" : QDir::tempPath() + "/loom-XXXXXX"};

    std::unique_ptr<rig::Device> deviceOf(const Project& p, const char* id, const char* serial) {
        rig::DeviceSetup setup;
        setup.models = test::models();
        setup.model = p.device(id)->model, setup.serial = serial, setup.name = p.device(id)->name;
        setup.folder = folder_.path().toStdString();
        auto d = std::make_unique<rig::Device>(setup);
        const auto done = d->tryConfig(site::designOf(p, *p.device(id)), "test");
        if (!done)
            qWarning("%s", done.error().text().c_str());
        return d;
    }
    static bool noted(const rig::Device& d, const std::string& who, const std::string& words) {
        for (const auto& e : d.store().log())
            if (e.who == who && e.what.find(words) != std::string::npos)
                return true;
        return false;
    }

  private slots:
    void cleanup() { rig::driveClock(-1, 0); }

    // ---- what goes where ----
    void eachDeviceHasWhatConcernsIt() {
        auto p = twoBoxes();
        test::addRule(p, "opens", "when Oak | Elm wall becomes open\nthen set Box · Speech · Level to -6");
        p.rule("opens")->room = "elm";
        test::addRule(p, "tapped", "when Oak tap becomes pressed\nthen set box/music.gain to -10");
        p.rule("tapped")->room = "oak";
        const auto elm = unpackRules(packRules(p, "other"), test::models());
        QVERIFY(elm);
        QCOMPARE(elm->share.rules, std::vector<std::string>{"opens"});
        QCOMPARE(elm->tells.at("wall:fold"), std::string("box"));
        QCOMPARE(elm->tells.at("box/speech.gain"), std::string("box"));
        QVERIFY(!elm->project.device("oak-tap") && elm->project.rules.size() == 1); // and nothing else
        const auto oak = unpackRules(packRules(p, "box"), test::models());
        QVERIFY(oak && oak->share.rules == std::vector<std::string>{"tapped"});
        QVERIFY(oak->uses.at("box/speech.gain").sets && !oak->uses.at("wall:fold").sets);
        QVERIFY(!oak->uses.count("box/music.gain")); // only its own rule sets that
        const auto tap = unpackRules(packRules(p, "oak-tap"), test::models());
        QVERIFY(tap && tap->share.rules.empty() && tap->uses.count("button:oak-tap"));
        QVERIFY(packRules(p, "dial").empty());
        // The same design gives the same text, and another one after any change of it.
        const auto before = packRules(p, "box");
        QCOMPARE(packRules(p, "box"), before);
        p.rule("tapped")->then[0].gaps["state"] = "-11";
        QVERIFY(packRules(p, "box") != before && packRules(p, "other") == packRules(p, "other"));
        QVERIFY(!rulePackWords(before).empty() && rulePackWords(before).rfind("1 rule, 0 scenes", 0) == 0);
    }
    void whatADeviceHasIsTakenIntoADesign() {
        auto p = twoBoxes();
        scene(p, "calm", "oak", {{"box/speech.gain", -20}});
        test::addRule(p, "tapped", "when Oak tap becomes pressed\nthen recall calm");
        const auto text = packRules(p, "box");
        auto mine = p;
        mine.rule("tapped")->name = "Another name";
        mine.scene("calm")->values["box/speech.gain"] = -3;
        test::addRule(mine, "late", "when it is 22:00 on every day\nthen set Box · Speech · Level to -60");
        QVERIFY(adoptRules(mine, text));
        QVERIFY(*mine.rule("tapped") == *p.rule("tapped") && *mine.scene("calm") == *p.scene("calm"));
        QVERIFY(!mine.rule("late")); // that device does not run it
        QCOMPARE(packRules(mine, "box"), text);
        QVERIFY(!adoptRules(mine, "{}") && !adoptRules(mine, "") &&
                !unpackRules(std::string(5u << 20, ' '), test::models()));
        auto j = json::parse(text);
        for (const auto& [key, wrong] : std::vector<std::pair<const char*, json>>{{"as", 1},
                                                                                  {"uses", json::array()},
                                                                                  {"uses", {{"a", {1}}}},
                                                                                  {"uses", {{"a", {2, 1}}}},
                                                                                  {"tells", {{"a", 1}}},
                                                                                  {"takes", {{"a", "b"}}},
                                                                                  {"rules", {1}},
                                                                                  {"outside", "x"},
                                                                                  {"project", 1}}) {
            auto broken = j;
            broken[key] = wrong;
            QVERIFY2(!unpackRules(broken.dump(), test::models()), key);
        }
    }

    // ---- one device ----
    // Which of its streams a receiver hears.
    void aRuleChoosesAStream() {
        auto p = test::rulesProject();
        Receiver r;
        r.id = "mix", r.inputs = {"net 1"}, r.streams = {"desk/a", "desk/b"};
        p.device("box")->receivers.push_back(r);
        const auto signal = signalOf(p, "hears:box/mix");
        QVERIFY(signal && signal->settable && signal->device == "box");
        QCOMPARE(*restingValue(p, *signal), 0.0);
        test::addRule(p, "b", "when the cue go is given\nthen set hears:box/mix to desk/b").room = "oak";
        test::addRule(p, "level", "when hears:box/mix becomes desk/b\nthen set box/speech.gain to -6").room = "oak";
        auto d = deviceOf(p, "box", "HEARS");
        QCOMPARE(*d->get("receiver.mix.chosen"), 0.0);
        QVERIFY(d->rules().give("cue:go"));
        QCOMPARE(*d->get("receiver.mix.chosen"), 1.0);
        d->rules().tick();
        QTRY_VERIFY((d->rules().tick(), *d->get("speech.gain") == -6.0));
        // The same in rehearsal.
        RehearsalTest t;
        t.when = {{1, "cue:go", ""}}, t.expect = {{2, "hears:box/mix", "desk/b"}, {2, "box/speech.gain", "-6"}};
        QVERIFY2(runTest(p, t).passed, runTest(p, t).failure.c_str());
        // With one stream there is nothing to choose.
        p.device("box")->receivers[0].streams.pop_back();
        QVERIFY(!signalOf(p, "hears:box/mix"));
    }
    void aRuleRunsOnItsDevice() {
        auto p = twoBoxes();
        scene(p, "joined", "oak", {{"box/speech.gain", -6}, {"box/music.gain", -20}}, 1);
        test::addRule(p, "opens",
                      "when Oak | Elm wall becomes open and stays so for 2 s\nonly if Box · Cut · Muted is off\n"
                      "then recall joined\nelse note Nothing is done");
        rig::driveClock(100, 1772437200000);
        const auto d = deviceOf(p, "box", "ONE");
        QVERIFY(d->setContact("contact 1", true) && d->setContact("contact 1", false));
        const auto passes = [&](double until) {
            static constexpr double beat = 0.02;
            for (double t = rig::secondsNow(); t < until - 1e-9;) {
                t += beat;
                rig::driveClock(t, 1772437200000 + static_cast<std::int64_t>(std::llround((t - 100) * 1000)));
                d->beatValues();
            }
        };
        passes(101.9);
        QCOMPARE(*d->get("speech.gain"), 0.0);
        passes(102.5); // half of the fade
        QVERIFY(std::abs(*d->get("speech.gain") + 3) < 0.2);
        passes(103.5);
        QCOMPARE(*d->get("speech.gain"), -6.0);
        QCOMPARE(*d->get("music.gain"), -20.0);
        QVERIFY(noted(*d, "Rule \u201copens\u201d", "Speech"));
        // Somebody's hand goes first.
        QVERIFY(d->set("cut.muted", 1, "somebody"));
        QVERIFY(d->set("speech.gain", 0, "somebody"));
        QVERIFY(d->setContact("contact 1", true) && d->setContact("contact 1", false));
        passes(106);
        QCOMPARE(*d->get("speech.gain"), 0.0);
        QVERIFY(noted(*d, "Rule \u201copens\u201d", "but not") &&
                noted(*d, "Rule \u201copens\u201d", "Nothing is done"));
        // What was told anew goes on where it was; power comes back and it runs what is kept.
        QVERIFY(d->set("cut.muted", 0, "somebody"));
        QVERIFY(d->keep());
        d->powerOff();
        QVERIFY(!d->rules().runs());
        d->powerOn();
        QVERIFY(d->rules().runs());
        QVERIFY(d->setContact("contact 1", true) && d->setContact("contact 1", false));
        passes(110);
        QCOMPARE(*d->get("speech.gain"), -6.0);
        // A text that is none is refused, and what runs goes on.
        auto wrong = d->running();
        wrong.rules = "{\"as\": 1}";
        QVERIFY(!d->tryConfig(wrong, "test") && d->rules().runs());
        wrong.rules.clear();
        QVERIFY(d->tryConfig(wrong, "test") && !d->rules().runs());
    }
    void aButtonActsAtOnce() {
        auto p = twoBoxes();
        test::addRule(p, "cut", "when Box · contact 2 becomes closed\nthen set Box · Cut · Muted to on");
        const auto d = deviceOf(p, "box", "AT-ONCE");
        QVERIFY(d->setContact("contact 2", true)); // within the message that tells of it
        QCOMPARE(*d->get("cut.muted"), 1.0);
    }
    void aSceneByOrderFades() {
        auto p = twoBoxes();
        scene(p, "calm", "oak", {{"box/speech.gain", -20}}, 1);
        rig::driveClock(100, 0);
        const auto d = deviceOf(p, "box", "FADES"); // without any rule
        QVERIFY(!d->rules().give("scene:nothing") && d->rules().give("scene:calm"));
        rig::driveClock(100.5, 500);
        d->beatValues();
        QVERIFY(std::abs(*d->get("speech.gain") + 10) < 0.2);
        rig::driveClock(101.1, 1100);
        d->beatValues();
        QCOMPARE(*d->get("speech.gain"), -20.0);
    }
    // Whoever only waits for a scene does not recall it by itself.
    void aSceneIsRecalledByOne() {
        auto p = twoBoxes();
        scene(p, "calm", "elm", {{"other/speech.gain", -20}});
        test::addRule(p, "hears", "when the scene calm is recalled\nthen set Box \u00b7 Speech \u00b7 Level to -6");
        p.rule("hears")->room = "oak";
        const auto oak = unpackRules(packRules(p, "box"), test::models()),
                   elm = unpackRules(packRules(p, "other"), test::models());
        QVERIFY(oak && elm && !oak->uses.at("scene:calm").sets && elm->uses.at("scene:calm").sets);
        const auto box = deviceOf(p, "box", "WAITS"), other = deviceOf(p, "other", "LEADS");
        QVERIFY(box->rules().give("scene:calm")); // the other is asked, and not there yet
        QCOMPARE(*box->get("speech.gain"), 0.0);
        // They hear each other, by hand.
        double t = 0;
        const auto carry = [&] {
            for (int i = 0; i < 60; ++i, t += 0.05) {
                for (const auto& [from, to] : {std::pair(box.get(), other.get()), {other.get(), box.get()}})
                    for (const auto& text : from->values().link().take(t))
                        (void)to->values().link().heard(text, t);
            }
        };
        carry();
        QCOMPARE(*other->get("speech.gain"), -20.0);
        QCOMPARE(*box->get("speech.gain"), -6.0); // and tells that it has recalled it
    }
    void whatIsMissedIsMadeUpForOrSaid() {
        auto p = twoBoxes();
        p.place.zone = "UTC";
        test::addRule(p, "closing",
                      "when it is 17:45 on every day, up to 10 min late\nthen set Box · Speech · Level to -6");
        const std::int64_t day = 1772323200000; // 2026-03-01, a Sunday
        const auto at = [&](double seconds, int hour, int minute) {
            rig::driveClock(seconds, day + (hour * 60 + minute) * 60000);
        };
        at(1000, 17, 40);
        const auto d = deviceOf(p, "box", "CLOSING");
        QVERIFY(d->keep());
        d->beatValues();
        at(1120, 17, 42);
        d->beatValues();
        d->powerOff();
        at(1360, 17, 46);
        d->powerOn();
        d->beatValues();
        QCOMPARE(*d->get("speech.gain"), -6.0);
        QVERIFY(noted(*d, "Rule \u201cclosing\u201d", "late"));
        // Once; and too late is said.
        QVERIFY(d->set("speech.gain", 0, "somebody"));
        at(1400, 17, 47);
        d->beatValues();
        d->powerOff();
        d->powerOn();
        d->beatValues();
        QCOMPARE(*d->get("speech.gain"), 0.0);
        rig::driveClock(1400 + 86400 - 420, day + 86400000 + (17 * 60 + 40) * 60000);
        d->beatValues();
        d->powerOff();
        rig::driveClock(1400 + 86400 - 420 + 3600, day + 86400000 + (18 * 60 + 40) * 60000);
        d->powerOn();
        d->beatValues();
        QCOMPARE(*d->get("speech.gain"), 0.0);
        QVERIFY(noted(*d, "Rule \u201cclosing\u201d", "missed"));
        // Told anew while it runs: no power came, nothing is missed.
        const auto before = d->store().log().size();
        auto changed = p;
        changed.rule("closing")->name = "Closing call";
        QVERIFY(d->tryConfig(site::designOf(changed, *changed.device("box")), "test"));
        d->beatValues();
        QCOMPARE(d->store().log().size(), before);
    }
    // A clock that was wrong jumps: what lies between is neither done twice nor forgotten in silence.
    void aClockThatJumps() {
        auto p = twoBoxes();
        p.place.zone = "UTC";
        test::addRule(p, "hourly", "when it is 12:00 on every day\nthen set Box · Speech · Level to -6");
        const std::int64_t day = 1772323200000;
        rig::driveClock(50, day + 11 * 3600000);
        const auto d = deviceOf(p, "box", "JUMPS");
        d->beatValues();
        QVERIFY(d->setFault("time", 7200)); // 13:00, an hour too far
        d->beatValues();
        QCOMPARE(*d->get("speech.gain"), 0.0);
        QVERIFY(noted(*d, "Rule \u201chourly\u201d", "missed"));
        QVERIFY(d->setFault("time", 0));
        d->beatValues();
        rig::driveClock(50 + 3601, day + 12 * 3600000 + 1000);
        d->beatValues();
        QVERIFY(!d->setFault("time", "later") && !d->setFault("time", 1e12));
    }

    // ---- 1,000 days, rehearsed and on a device ----
    void aDayIsTheSameInRehearsalAndOnTheDevice() {
        auto p = twoBoxes();
        scene(p, "calm", "oak", {{"box/speech.gain", -20}, {"box/cut.muted", 1}}, 2);
        scene(p, "loud", "oak", {{"box/speech.gain", 3}, {"box/music.gain", -6}, {"box/cut.muted", 0}}, 0.5);
        p.scene("calm")->switches = Scene::Switches::middle;
        Script count;
        count.id = count.name = "count";
        count.text = "keep.n = (keep.n or 0) + 1\nset('box/music.gain', -(keep.n % 40))\nwait(3)\n"
                     "if get('box/cut.muted') == 1 then error('muted') end\nset('box/music.gain', -50, 2)\n";
        p.scripts.push_back(count);
        test::addRule(p, "opens",
                      "when Oak | Elm wall becomes open and stays so for 2 s\nonly if Box · Cut · Muted is off\n"
                      "then recall loud over 4 s\nthen wait 5 s\nthen change box/speech.gain by -1\nelse give the "
                      "cue noisy")
            .again = Rule::Again::queue;
        test::addRule(p, "closes", "when Oak | Elm wall becomes closed\nthen recall calm\nthen give the cue noisy")
            .again = Rule::Again::queue;
        test::addRule(
            p, "turns",
            "when box/speech.gain rises above -4 and stays so for 1 s\nthen turn Box · Cut · Muted over\nthen wait 2 s")
            .again = Rule::Again::ignore;
        test::addRule(p, "cued", "when the cue noisy is given\nthen run count").again = Rule::Again::restart;
        test::addRule(p, "told",
                      "when the scene calm is recalled\nonly if it is between 8:00 and 20:00\nthen change Box · Music "
                      "· Level by 2 over 1 s");
        test::addRule(p, "clock",
                      "when it is 12:30 on weekdays except 2026-03-04, up to 15 min late\n"
                      "when it is 20 min before sunset on every day\nthen recall loud\nthen wake the rule cued");
        test::addRule(
            p, "often",
            "when every 90 min\nonly if calm was the last scene\nthen set Box · Music · Level to -12 over 10 s");
        test::addRule(p, "bell",
                      "when Box · contact 2 becomes closed\nthen set Box · relay 1 to closed\nthen wait 20 s\nthen set "
                      "Box · relay 1 to open")
            .again = Rule::Again::ignore;
        test::addRule(p, "gong", "when Box · contact 2 becomes closed\nthen wait 30 s\nthen give the cue noisy").again =
            Rule::Again::queue;
        for (std::size_t i = 0; i < p.rules.size(); ++i)
            p.rules.change(i).room = "oak";
        for (const auto& r : p.rules)
            QCOMPARE(homeOf(p, r).device, std::string("box"));

        const auto d = deviceOf(p, "box", "DAYS");
        QVERIFY(d->keep());
        std::vector<RuleEvent> heard;
        d->rules().heard = [&](const std::vector<RuleEvent>& events) {
            heard.insert(heard.end(), events.begin(), events.end());
        };
        std::mt19937 random(20261130);
        const auto pick = [&](int n) { return static_cast<int>(random() % static_cast<unsigned>(n)); };
        const int days = test::sanitized ? 60 : 1000;
        std::size_t events = 0;
        std::set<RuleEvent::Kind> kinds;
        double seconds = 5000;
        for (int day = 0; day < days; ++day) {
            const Millis begins = 1772323200000 + (day % 30) * dayLong + pick(24 * 3600) * second;
            // ---- what happens ----
            std::vector<Happening> all;
            Millis at = 0;
            static const char* const paths[]{"wall:fold",  "box/speech.gain",       "cue:noisy",
                                             "scene:calm", "contact:box/contact 2", "box/cut.muted",
                                             "scene:loud"};
            for (int i = 0; i < 25; ++i) {
                at += pick(3) == 0 ? pick(40 * 60) * second : 20 * (1 + pick(300));
                const std::string signal = paths[pick(7)];
                all.push_back({at, signal, static_cast<double>(signal == "box/speech.gain" ? pick(40) - 30 : pick(2))});
            }
            // ---- rehearsed ----
            Rehearsal rehearsal(p, begins);
            for (const auto& h : all)
                rehearsal.plan(h);
            rehearsal.go(at + minute);
            // ---- and on the device ----
            d->powerOff();
            d->store().remember("");
            heard.clear();
            (void)d->setContact("contact 1", true), (void)d->setContact("contact 2", false);
            seconds += 100000;
            const auto to = [&](Millis t) { rig::driveClock(seconds + static_cast<double>(t) / 1000, begins + t); };
            to(0);
            d->powerOn();
            const auto stepsTo = [&](Millis end) {
                while (const auto due = d->rules().run()->due()) {
                    const Millis t = *due - static_cast<Millis>(std::llround(seconds * 1000));
                    if (t > end)
                        break;
                    to(t);
                    d->beatValues();
                }
                to(end);
                d->beatValues();
            };
            for (const auto& h : all) {
                stepsTo(h.at);
                if (h.signal == "wall:fold")
                    (void)d->setContact("contact 1", h.value < 0.5);
                else if (h.signal == "contact:box/contact 2")
                    (void)d->setContact("contact 2", h.value >= 0.5);
                else if (h.signal.rfind("box/", 0) == 0)
                    (void)d->set(h.signal.substr(4), h.value, "somebody");
                else
                    QVERIFY(d->rules().give(h.signal));
            }
            stepsTo(at + minute);
            // ---- the same to the event ----
            const auto& told = rehearsal.events();
            for (std::size_t i = 0; i < std::max(told.size(), heard.size()); ++i)
                if (i >= told.size() || i >= heard.size() || !(told[i] == heard[i])) {
                    const auto words = [&](const std::vector<RuleEvent>& list) {
                        return i < list.size() ? eventText(p, list[i]) + " at " + std::to_string(list[i].utc - begins)
                                               : "nothing";
                    };
                    QFAIL(("day " + std::to_string(day) + ", event " + std::to_string(i) + ": rehearsed " +
                           words(told) + ", on the device " + words(heard))
                              .c_str());
                }
            for (const auto& e : told)
                kinds.insert(e.kind);
            events += told.size();
            for (const char* path : {"speech.gain", "music.gain", "cut.muted"}) {
                const auto is = d->get(path);
                const auto was = rehearsal.value(std::string("box/") + path);
                QVERIFY2(is && was && *is == *was, path);
            }
        }
        // Days on which nothing happens would prove nothing.
        using Kind = RuleEvent::Kind;
        for (const auto kind : {Kind::happened, Kind::woke, Kind::held, Kind::set, Kind::did, Kind::ignored,
                                Kind::queued, Kind::restarted, Kind::failed})
            QVERIFY2(kinds.count(kind), std::to_string(static_cast<int>(kind)).c_str());
        QVERIFY2(events > static_cast<std::size_t>(days) * 50, std::to_string(events).c_str());
        qInfo("%d days, %zu events", days, events);
    }

    // ---- the demo's devices on a network, with nobody's computer ----
    void theDemoRunsByItself() {
        const auto demo = *test::load(LOOM_SOURCE_DIR "/demo/marram-point");
        rig::Rig rig(test::models(), 47340);
        const auto scenario = site::scenarioFromJson(json::parse(R"({"devices": [
            {"serial": "H8", "model": "heddle-8", "address": "127.20.34.1", "as": "heddle-8-rack-a"},
            {"serial": "SL", "model": "slate-10", "address": "127.20.34.2", "as": "tern-slate"},
            {"serial": "TT", "model": "tap", "address": "127.20.34.3", "as": "tern-tap"},
            {"serial": "PS", "model": "slate-10", "address": "127.20.34.4", "as": "plover-slate"},
            {"serial": "FD", "model": "dial", "address": "127.20.34.5", "as": "foyer-dial"}]})"));
        QVERIFY(rig.open().isEmpty());
        const auto done = rig.play(*scenario, &demo, &demo, folder_.path().toStdString());
        QVERIFY2(bool(done), done ? "" : done.error().text().c_str());
        auto& box = rig.server("H8")->device();
        QVERIFY(box.rules().runs() && !rig.server("TT")->device().rules().runs());
        QVERIFY(rig.setFault("*", "wall", {{"fold", "closed"}}));
        // Somebody looks at the slate.
        QWebSocket page;
        std::vector<json> told;
        connect(&page, &QWebSocket::textMessageReceived, this,
                [&](const QString& text) { told.push_back(json::parse(text.toStdString())); });
        const auto said = [&](const char* key, const std::string& what) {
            return std::any_of(told.begin(), told.end(), [&](const json& j) {
                return (std::string(key) == "page" ? j.value("page", json::object()).value("name", "")
                                                   : j.value(key, "")) == what;
            });
        };
        QTRY_VERIFY(rig.server("SL")->pagePort() && rig.server("PS")->pagePort());
        page.open(QUrl(QString("ws://%1:%2/ws").arg(rig.server("SL")->address()).arg(rig.server("SL")->pagePort())));
        QTRY_COMPARE(page.state(), QAbstractSocket::ConnectedState);
        page.sendTextMessage(R"(["open", "tern-slate", ""])");
        QTRY_VERIFY(!told.empty());

        // The wall opens: both rooms are one, on every device.
        QVERIFY(rig.setFault("*", "wall", {{"fold", "open"}}));
        QTRY_COMPARE_WITH_TIMEOUT(*box.get("tern.level.gain"), -6.0, 8000);
        QVERIFY(noted(box, "Rule \u201cSeminar becomes one room\u201d", "Joined"));
        // The knob in the foyer, through a script.
        const auto before = *box.get("foyer.level.gain");
        QVERIFY(rig.setFault("FD", "knob", {{"knob 1", 0.2}}));
        QTest::qWait(1500); // its first word to others
        QVERIFY(rig.setFault("FD", "knob", {{"knob 1", 0.9}}));
        QTRY_VERIFY_WITH_TIMEOUT(*box.get("foyer.level.gain") != before, 4000);
        // The button, held for three seconds, two devices away from the slate that says so.
        QVERIFY(rig.setFault("TT", "button", true));
        QTRY_VERIFY_WITH_TIMEOUT(said("said", "Somebody asks for help"), 8000);
        QVERIFY(rig.setFault("TT", "button", false));
        QVERIFY(noted(box, "Rule \u201cTap in Tern\u201d", "asks for help"));
        // Power goes and comes: it runs what is kept.
        QVERIFY(rig.setFault("H8", "power", "off"));
        QVERIFY(rig.setFault("H8", "power", "on"));
        QTRY_VERIFY(box.rules().runs());
        QVERIFY(rig.setFault("*", "wall", {{"fold", "closed"}}));
        QTRY_COMPARE_WITH_TIMEOUT(*box.get("tern.level.gain"), -3.0, 8000);
    }
};

LOOM_TEST(tst_rules_rig, TestRulesRig)
#include "tst_rules_rig.moc"
