// Rules at work: what wakes them, what they do, in which order, and what is told of it.
#include "rules/analysis.h"
#include "rules/fade.h"
#include "rules/rule_home.h"
#include "rules_demo.h"

using namespace loom;
using namespace loom::project;
using namespace loom::test;

class TestRuleRun : public QObject {
    Q_OBJECT
    static constexpr const char *speech = "box/speech.gain", *music = "box/music.gain", *muted = "box/cut.muted",
                                *wall = "wall:fold", *tap = "button:oak-tap";
    static Millis utcOf(const char* text) { return *readMoment(text, *Zone::named("Europe/Berlin")); }
    static std::unique_ptr<RuleRun> begun(const Project& p, const char* at = "2026-11-30T08:00:00",
                                          const std::string& kept = "") {
        auto run = std::make_unique<RuleRun>(p);
        for (const auto& known : run->book().known())
            if (const auto v = restingValue(p, known.signal))
                run->know(known.signal.path, *v);
        run->restore(kept);
        run->start(0, utcOf(at));
        return run;
    }
    static int count(RuleRun& run, RuleEvent::Kind kind) {
        int n = 0;
        for (const auto& e : run.takeEvents())
            n += e.kind == kind;
        return n;
    }
    static std::vector<double> valuesSet(RuleRun& run, const std::string& path) {
        std::vector<double> all;
        for (const auto& o : run.takeOutputs())
            if (o.kind == RuleOutput::Kind::set && o.path == path)
                all.push_back(o.value);
        return all;
    }
    static Scene scene(const char* id, std::map<std::string, double> values, double fade = 0) {
        Scene s;
        s.id = s.name = id, s.values = std::move(values), s.fade = fade, s.room = "oak";
        return s;
    }

  private slots:
    void edgesWake() {
        auto p = rulesProject();
        addRule(p, "r", "when Oak | Elm wall becomes open\nthen set box/cut.muted to on");
        auto run = begun(p);
        run->input(10, wall, 0); // as it was
        QVERIFY(valuesSet(*run, muted).empty());
        run->input(20, wall, 1);
        QCOMPARE(valuesSet(*run, muted), std::vector<double>{1});
        run->input(30, wall, 1);
        QVERIFY(valuesSet(*run, muted).empty());
        run->input(40, wall, 0);
        QVERIFY(valuesSet(*run, muted).empty());
        run->input(50, wall, 1);
        QCOMPARE(valuesSet(*run, muted), std::vector<double>{1});
        QCOMPARE(*run->value(muted), 1.0);
        run->input(60, wall, std::nan(""));
        run->input(70, "wall:nowhere", 1);
        QCOMPARE(*run->value(wall), 1.0);
    }
    void whatIsSwitchedOffSleeps() {
        auto p = rulesProject();
        addRule(p, "r", "when Oak | Elm wall becomes open\nthen set box/cut.muted to on").on = false;
        auto run = begun(p);
        run->input(20, wall, 1);
        run->wake(30, "r");
        QVERIFY(valuesSet(*run, muted).empty());
    }
    void itHasToLast() {
        auto p = rulesProject();
        addRule(p, "r", "when Oak | Elm wall becomes open and stays so for 2 s\nthen set box/cut.muted to on");
        auto run = begun(p);
        run->input(1000, wall, 1);
        run->advance(2999);
        QVERIFY(valuesSet(*run, muted).empty());
        run->input(2999, wall, 0);
        run->advance(4000);
        QVERIFY(valuesSet(*run, muted).empty());
        run->input(5000, wall, 1);
        QCOMPARE(run->due().value_or(-1), Millis(7000));
        run->advance(7000);
        QCOMPARE(valuesSet(*run, muted), std::vector<double>{1});
    }
    void levelsRiseAndFall() {
        auto p = rulesProject();
        addRule(p, "up", "when box/speech.gain rises above -10\nthen set box/cut.muted to on");
        addRule(p, "down", "when box/speech.gain falls below -20\nthen set box/cut.muted to off");
        auto run = begun(p); // the design has 0 dB, which is above
        run->input(10, speech, -5);
        QVERIFY(valuesSet(*run, muted).empty());
        run->input(20, speech, -10);
        run->input(30, speech, -20);
        QVERIFY(valuesSet(*run, muted).empty());
        run->input(40, speech, -20.5);
        QCOMPARE(valuesSet(*run, muted), std::vector<double>{0});
        run->input(50, speech, -9.5);
        QCOMPARE(valuesSet(*run, muted), std::vector<double>{1});
    }
    void conditionsAndElse() {
        auto p = rulesProject();
        auto& r = addRule(
            p, "r",
            "when Oak tap becomes pressed\nonly if Oak | Elm wall is open\nonly if box/speech.gain is above -10\n"
            "then set box/cut.muted to on\nelse set box/music.gain to -30");
        const auto press = [&](Rule::Needs needs, double open, double gain) {
            r.needs = needs;
            auto run = begun(p);
            run->input(1, wall, open), run->input(2, speech, gain), run->input(3, tap, 1);
            int held = 0;
            for (const auto& e : run->takeEvents())
                held += e.kind == RuleEvent::Kind::held;
            const bool then = *run->value(muted) == 1, otherwise = *run->value(music) == -30;
            return std::tuple(then, otherwise, held);
        };
        using R = std::tuple<bool, bool, int>;
        QVERIFY(press(Rule::Needs::all, 1, 0) == R(true, false, 0));
        QVERIFY(press(Rule::Needs::all, 0, 0) == R(false, true, 1));
        QVERIFY(press(Rule::Needs::all, 0, -20) == R(false, true, 2));
        QVERIFY(press(Rule::Needs::any, 0, 0) == R(true, false, 0));
        QVERIFY(press(Rule::Needs::any, 0, -20) == R(false, true, 2));
        QVERIFY(press(Rule::Needs::none, 0, -20) == R(true, false, 0));
        QVERIFY(press(Rule::Needs::none, 1, -20) == R(false, true, 1));
    }
    void hoursAndDays() {
        auto p = rulesProject();
        addRule(p, "night",
                "when Oak tap becomes pressed\nonly if it is between 22:00 and 6:00\nthen set box/cut.muted to on");
        addRule(p, "free",
                "when Oak tap becomes pressed\nonly if today is one of weekends except 2026-12-05\nthen set "
                "box/music.gain to -40");
        const auto press = [&](const char* at) {
            auto run = begun(p, at);
            run->input(1, tap, 1);
            return std::pair(*run->value(muted) == 1, *run->value(music) == -40);
        };
        QVERIFY(press("2026-11-30T21:59:00") == std::pair(false, false));
        QVERIFY(press("2026-11-30T22:00:00") == std::pair(true, false));
        QVERIFY(press("2026-11-30T05:59:00") == std::pair(true, false));
        QVERIFY(press("2026-11-30T06:00:00") == std::pair(false, false));
        QVERIFY(press("2026-12-06T12:00:00") == std::pair(false, true));
        QVERIFY(press("2026-12-05T12:00:00") == std::pair(false, false));
    }
    void actionsWaitTheirTurn() {
        auto p = rulesProject();
        addRule(
            p, "r",
            "when Oak tap becomes pressed\nthen set box/cut.muted to on\nthen wait 3 s\nthen set box/cut.muted to off\n"
            "then change box/speech.gain by -6\nthen turn box/cut.muted over");
        auto run = begun(p);
        run->input(100, tap, 1);
        QCOMPARE(*run->value(muted), 1.0);
        run->advance(3099);
        QCOMPARE(*run->value(muted), 1.0);
        QCOMPARE(*run->value(speech), 0.0);
        run->advance(3100);
        QCOMPARE(*run->value(muted), 1.0); // off, and over again
        QCOMPARE(*run->value(speech), -6.0);
        QVERIFY(!run->busy());
    }
    void wokenWhileAtIt() {
        for (const auto again : {Rule::Again::restart, Rule::Again::ignore, Rule::Again::queue}) {
            auto p = rulesProject();
            addRule(p, "r",
                    "when Oak tap becomes pressed\nthen change box/speech.gain by -1\nthen wait 10 s\nthen change "
                    "box/music.gain by -1")
                .again = again;
            auto run = begun(p);
            for (const Millis t : {1000, 4000, 6000}) {
                run->input(t, tap, 1);
                run->input(t + 100, tap, 0);
            }
            run->advance(11000);
            run->advance(60000);
            const double begun = *run->value(speech), ended = *run->value(music);
            QCOMPARE(begun, again == Rule::Again::ignore ? -1.0 : -3.0);
            QCOMPARE(ended, again == Rule::Again::queue ? -3.0 : -1.0);
            const auto kind = again == Rule::Again::restart  ? RuleEvent::Kind::restarted
                              : again == Rule::Again::ignore ? RuleEvent::Kind::ignored
                                                             : RuleEvent::Kind::queued;
            QCOMPARE(count(*run, kind), 2);
        }
    }
    void fadesGoEvenly() {
        auto p = rulesProject();
        p.scenes.push_back(scene("low", {{speech, -20}, {muted, 1}, {"box/tone.1.hz", 4000}}, 2));
        addRule(p, "r", "when Oak tap becomes pressed\nthen recall low");
        auto run = begun(p);
        const double from = run->value("box/tone.1.hz").value_or(0);
        run->input(1000, tap, 1);
        run->advance(2000);
        QVERIFY(std::abs(*run->value(speech) - -10) < 0.3);
        QCOMPARE(*run->value(muted), 1.0); // as it begins
        QVERIFY(std::abs(*run->value("box/tone.1.hz") / std::sqrt(from * 4000) - 1) < 0.03);
        run->advance(3000);
        QCOMPARE(*run->value(speech), -20.0);
        QCOMPARE(*run->value("box/tone.1.hz"), 4000.0);
        const auto steps = valuesSet(*run, speech);
        QVERIFY(steps.size() > 95 && steps.size() < 105); // every 20 ms
        for (std::size_t i = 1; i < steps.size(); ++i)
            QVERIFY(steps[i] <= steps[i - 1] && steps[i - 1] - steps[i] < 0.25);
        // Somebody else takes it over.
        auto other = begun(p);
        other->input(1000, tap, 1);
        other->advance(1500);
        other->input(1510, speech, 3);
        other->advance(4000);
        QCOMPARE(*other->value(speech), 3.0);
        // Switches change over where the scene says so.
        for (const auto& [when, at] : {std::pair(Scene::Switches::middle, 2000), {Scene::Switches::end, 3000}}) {
            p.scene("low")->switches = when;
            auto run2 = begun(p);
            run2->input(1000, tap, 1);
            run2->advance(at - 30);
            QCOMPARE(*run2->value(muted), 0.0);
            run2->advance(at + 20);
            QCOMPARE(*run2->value(muted), 1.0);
        }
        QCOMPARE(fadeValue(engine::levelParam("l", "L", -80, 12, 0), -40, 0, 0.25), -30.0);
        QCOMPARE(fadeValue(engine::frequencyParam("f", "F", 100), 100, 400, 0.5), 200.0);
    }
    void scenesAreKnownByTheirMoment() {
        auto p = rulesProject();
        p.scenes.push_back(scene("low", {{speech, -20}}));
        p.scenes.push_back(scene("high", {{speech, 6}}));
        addRule(p, "r", "when the scene low is recalled\nthen set box/cut.muted to on");
        addRule(p, "q", "when Oak tap becomes pressed\nonly if low was the last scene\nthen recall high");
        auto run = begun(p);
        run->input(5, tap, 1);
        QCOMPARE(*run->value(speech), 0.0);
        run->input(10, "scene:low", 1); // by hand
        QCOMPARE(*run->value(speech), -20.0);
        QCOMPARE(*run->value(muted), 1.0);
        run->input(20, tap, 0);
        run->input(30, tap, 1);
        QCOMPARE(*run->value(speech), 6.0);
        run->input(40, tap, 0);
        run->input(50, speech, 0);
        run->input(60, tap, 1);
        QCOMPARE(*run->value(speech), 0.0); // high was the last
    }
    void powerComes() {
        auto p = rulesProject();
        p.scenes.push_back(scene("low", {{speech, -20}}));
        p.scene("low")->atStart = true;
        addRule(p, "r", "when power comes\nthen set box/cut.muted to on");
        auto run = begun(p);
        QCOMPARE(*run->value(speech), -20.0);
        QCOMPARE(*run->value(muted), 1.0);
        // A processor that is not their home does neither.
        RuleRun other(p, RuleShare{});
        other.start(0, utcOf("2026-11-30T08:00:00"));
        QVERIFY(other.takeOutputs().empty());
    }
    void rulesWakeRules() {
        auto p = rulesProject();
        addRule(p, "b", "when the cue Next is given\nthen set box/cut.muted to on");
        addRule(p, "a", "when Oak tap becomes pressed\nthen give the cue Next\nthen wake the rule b");
        auto run = begun(p);
        run->input(1, tap, 1);
        QCOMPARE(valuesSet(*run, muted), (std::vector<double>{1, 1}));
    }
    void roundsAreStopped() {
        auto p = rulesProject();
        addRule(p, "a", "when the cue A is given\nthen change box/speech.gain by -0.1\nthen give the cue B");
        addRule(p, "b", "when the cue B is given\nthen give the cue A");
        addRule(p, "c", "when the cue A is given\nthen set box/cut.muted to on");
        auto run = begun(p);
        run->input(1, "cue:A", 1);
        QCOMPARE(*run->value(muted), 1.0); // the others go on
        QVERIFY(count(*run, RuleEvent::Kind::stopped) >= 1);
        run->input(2, "cue:A", 1); // the next moment is a new one
        QVERIFY(count(*run, RuleEvent::Kind::woke) > 10);
        const auto troubles = lookOver(run->book());
        QVERIFY(std::any_of(troubles.begin(), troubles.end(),
                            [](const auto& t) { return t.kind == RuleTrouble::Kind::forEver && t.way.size() == 2; }));
    }
    void clocksWake() {
        auto p = rulesProject();
        addRule(p, "r", "when it is 17:45 on weekdays except 2026-12-01\nthen change box/speech.gain by -1");
        addRule(p, "q", "when every 15 min\nthen change box/music.gain by -1");
        auto run = begun(p, "2026-11-30T17:00:00");
        run->advance(44 * minute);
        QCOMPARE(*run->value(speech), 0.0);
        run->advance(46 * minute);
        QCOMPARE(*run->value(speech), -1.0);
        QCOMPARE(*run->value(music), -3.0);
        run->advance(46 * minute + dayLong);
        QCOMPARE(*run->value(speech), -1.0);
        run->advance(46 * minute + 2 * dayLong);
        QCOMPARE(*run->value(speech), -2.0);
    }
    void clocksThatJump() {
        auto p = rulesProject();
        addRule(p, "r", "when it is 17:45 on every day\nthen change box/speech.gain by -1");
        auto run = begun(p, "2026-11-30T17:40:00");
        run->clock(1000, utcOf("2026-11-30T17:46:00")); // six minutes: it was missed
        QCOMPARE(*run->value(speech), 0.0);
        QCOMPARE(count(*run, RuleEvent::Kind::missed), 1);
        run = begun(p, "2026-11-30T17:44:30");
        run->clock(1000, utcOf("2026-11-30T17:45:10")); // the time server corrects a little
        QCOMPARE(*run->value(speech), -1.0);
        run->clock(2000, utcOf("2026-11-30T17:30:00")); // back: not twice on one day
        run->advance(2 * 60 * minute);
        QCOMPARE(*run->value(speech), -1.0);
        run->advance(2 * 60 * minute + dayLong);
        QCOMPARE(*run->value(speech), -2.0);
        // A clock that was years ahead does not silence the rule until then.
        run = begun(p, "2031-01-01T17:45:00");
        run->advance(dayLong + minute);
        QCOMPARE(*run->value(speech), -1.0);
        run->clock(dayLong + 2 * minute, utcOf("2026-11-30T17:00:00"));
        run->advance(dayLong + 60 * minute);
        QCOMPARE(*run->value(speech), -2.0);
    }
    void whatWasMissedIsSaidAndMadeUpFor() {
        auto p = rulesProject();
        addRule(p, "late", "when it is 17:45 on every day, up to 10 late\nthen change box/speech.gain by -1");
        addRule(p, "strict", "when it is 17:45 on every day\nthen change box/music.gain by -1");
        auto before = begun(p, "2026-11-30T17:30:00");
        before->advance(minute);
        const auto kept = before->kept();
        auto run = begun(p, "2026-11-30T17:46:00", kept);
        QCOMPARE(*run->value(speech), -1.0);
        QCOMPARE(*run->value(music), 0.0);
        int missed = 0, made = 0;
        for (const auto& e : run->takeEvents()) {
            missed += e.kind == RuleEvent::Kind::missed && e.rule == "strict";
            made += e.kind == RuleEvent::Kind::made && e.rule == "late" && e.text == "2026-11-30T17:45:00";
        }
        QVERIFY(missed == 1 && made == 1);
        // Once is enough, and an hour is too late.
        QCOMPARE(*begun(p, "2026-11-30T17:47:00", run->kept())->value(speech), 0.0);
        QCOMPARE(*begun(p, "2026-11-30T18:46:00", kept)->value(speech), 0.0);
        QCOMPARE(*begun(p, "2026-11-30T17:44:00", kept)->value(speech), 0.0);
        for (const char* bad : {"", "{", "[]", "7", R"({"utc":"x","done":[1],"scenes":7,"scripts":{"a":1}})",
                                R"({"utc":-99999999999999999,"done":{"late":1e300}})"})
            QCOMPARE(*begun(p, "2026-11-30T17:00:00", bad)->value(speech), 0.0);
    }
    void everythingElseIsToldOutside() {
        auto p = rulesProject();
        Surface s;
        s.id = "slate", s.name = "Slate";
        s.pages.push_back({"main", "Main"});
        p.surfaces.push_back(s);
        addRule(p, "r",
                "when Oak tap becomes pressed\nthen Slate shows the page Main\nthen Slate says Hello for 5 s\nthen "
                "note heard\n"
                "then give the cue Out");
        auto run = begun(p);
        run->takeOutputs();
        run->input(1, tap, 1);
        const auto out = run->takeOutputs();
        QCOMPARE(out.size(), std::size_t(4));
        QVERIFY(out[0].kind == RuleOutput::Kind::page && out[0].path == "slate" && out[0].text == "main");
        QVERIFY(out[1].kind == RuleOutput::Kind::say && out[1].text == "Hello" && out[1].value == 5);
        QVERIFY(out[2].kind == RuleOutput::Kind::note && out[2].text == "heard" && out[2].rule == "r");
        QVERIFY(out[3].kind == RuleOutput::Kind::given && out[3].path == "cue:Out");
    }
    void playersBeginAnew() {
        auto p = rulesProject();
        addRule(p, "r", "when Oak tap becomes pressed\nthen play closing.wav on box/tape at -18");
        auto run = begun(p);
        run->input(100, tap, 1);
        QCOMPARE(*run->value("box/tape.item"), 2.0);
        QCOMPARE(*run->value("box/tape.level"), -18.0);
        QCOMPARE(valuesSet(*run, "box/tape.play"), std::vector<double>{1});
        run->input(200, tap, 0), run->input(300, tap, 1); // still on: off for a moment, and on
        QCOMPARE(valuesSet(*run, "box/tape.play"), std::vector<double>{0});
        run->advance(360);
        QCOMPARE(valuesSet(*run, "box/tape.play"), std::vector<double>{1});
    }
    void whatIsGoneIsToldAndTheRestWorks() {
        auto p = rulesProject();
        auto& r = addRule(p, "r", "when Oak tap becomes pressed\nthen set box/cut.muted to on");
        Clause lost;
        lost.kind = "set", lost.gaps = {{"signal", "box/gone.gain"}, {"state", "1"}};
        r.then.insert(r.then.begin(), lost);
        Clause later;
        later.kind = "teleport";
        r.then.push_back(later);
        auto run = begun(p);
        QCOMPARE(count(*run, RuleEvent::Kind::failed), 2);
        run->input(1, tap, 1);
        QCOMPARE(*run->value(muted), 1.0);
        QCOMPARE(lookOver(run->book()).size(), std::size_t(2));
    }
    void homes() {
        auto p = rulesProject();
        Device other = *p.device("box");
        other.id = other.name = "rack", other.room = "elm";
        p.devices.push_back(other);
        addRule(p, "a", "when Oak tap becomes pressed\nthen set rack/cut.muted to on").room = "oak";
        addRule(p, "b", "when Oak tap becomes pressed\nthen set rack/cut.muted to on").room = "elm";
        addRule(p, "c", "when Oak tap becomes pressed\nthen set rack/cut.muted to on");
        QCOMPARE(QString::fromStdString(homeOf(p, *p.rule("a")).device), QString("box"));
        QVERIFY(homeOf(p, *p.rule("a")).others == std::set<std::string>{"rack"});
        QCOMPARE(QString::fromStdString(homeOf(p, *p.rule("b")).device), QString("rack"));
        QVERIFY(homeOf(p, *p.rule("b")).others.empty());
        QCOMPARE(QString::fromStdString(homeOf(p, *p.rule("c")).device), QString("rack"));
        QVERIFY(shareOf(p, "box").rules == std::vector<std::string>{"a"});
        RuleRun run(p, shareOf(p, "box"));
        run.start(0, 0);
        run.input(1, tap, 0), run.input(2, tap, 1);
        QCOMPARE(valuesSet(run, "rack/cut.muted"), std::vector<double>{1});
    }
    void neverAndFights() {
        auto p = rulesProject();
        p.scenes.push_back(scene("low", {{speech, -20}}));
        addRule(p, "never", "when Oak | Elm wall becomes open\nonly if Oak | Elm wall is closed\nthen note x");
        addRule(p, "both",
                "when Oak tap becomes pressed\nonly if box/speech.gain is above -10\nonly if box/speech.gain is below "
                "-20\nthen note x");
        addRule(p, "level", "when box/speech.gain rises above 12\nthen note x");
        addRule(p, "one", "when the cue Go is given\nthen recall low");
        addRule(p, "two", "when the cue Go is given\nthen set box/speech.gain to 0");
        addRule(p, "apart", "when the cue Go is given\nonly if Oak | Elm wall is open\nthen set box/music.gain to 0");
        addRule(p, "apart2",
                "when the cue Go is given\nonly if Oak | Elm wall is closed\nthen set box/music.gain to -9");
        addRule(p, "calm", "when Oak tap becomes pressed\nthen set box/cut.muted to on");
        addRule(p, "calm2", "when box/cut.muted becomes on\nthen set box/music.gain to -9"); // no round
        std::set<std::pair<std::string, int>> found;
        for (const auto& t : lookOver(RuleBook(p)))
            found.emplace(t.rule, static_cast<int>(t.kind));
        const auto never = static_cast<int>(RuleTrouble::Kind::neverWakes),
                   fight = static_cast<int>(RuleTrouble::Kind::fight);
        QVERIFY(found == (std::set<std::pair<std::string, int>>{
                             {"never", never}, {"both", never}, {"level", never}, {"two", fight}}));
    }
};

LOOM_TEST(tst_rule_run, TestRuleRun)
#include "tst_rule_run.moc"
