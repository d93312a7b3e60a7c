// A day before the room exists, and tests that are kept of it.
#include "rules_demo.h"
#include <random>

using namespace loom;
using namespace loom::project;
using namespace loom::test;

class TestRehearsal : public QObject {
    Q_OBJECT
    static Millis utcOf(const char* text) { return *readMoment(text, *Zone::named("Europe/Berlin")); }
    static Project project() {
        auto p = rulesProject();
        Scene s;
        s.id = "joined", s.name = "Joined", s.fade = 1, s.room = "oak+elm";
        s.values = {{"box/speech.gain", -8}, {"box/cut.muted", 0}};
        p.scenes.push_back(s);
        addRule(p, "wall",
                "when Oak | Elm wall becomes open and stays so for 2 s\nonly if it is between 8:00 and 18:00\nthen "
                "recall Joined\n"
                "else set box/cut.muted to on");
        addRule(p, "closing",
                "when it is 17:45 on weekdays except 2026-12-24\nthen play closing.wav on box/tape at -18");
        return p;
    }

  private slots:
    void aDay() {
        Rehearsal r(project(), utcOf("2026-11-30T08:00:00"));
        const auto day = readDay(r.project(),
                                 "# a day\n08:30 wall:fold open\n\n12:00 Oak | Elm wall closed\n18:30:00 wall:fold "
                                 "open\n09:00 Oak tap pressed\n",
                                 r.begins());
        QVERIFY2(bool(day), day.error().text().c_str());
        QCOMPARE(day->size(), std::size_t(4));
        for (const auto& one : *day)
            r.plan(one);
        r.go(31 * minute);
        QCOMPARE(*r.value("box/speech.gain"), -8.0);
        QCOMPARE(*r.value("wall:fold"), 1.0);
        r.go(9 * 60 * minute);
        QCOMPARE(*r.value("wall:fold"), 0.0);
        QCOMPARE(*r.value("box/tape.play"), 0.0);
        r.go(10 * 60 * minute);
        QCOMPARE(*r.value("box/tape.play"), 1.0);
        QCOMPARE(*r.value("box/cut.muted"), 0.0);
        r.go(12 * 60 * minute);
        QCOMPARE(*r.value("box/cut.muted"), 1.0); // it was too late
        QCOMPARE(r.happened().size(), std::size_t(4));
        bool held = false;
        for (const auto& e : r.events()) {
            const auto text = eventText(r.project(), e);
            QVERIFY(!text.empty());
            held = held || (e.kind == RuleEvent::Kind::held && text == "it is between 08:00 and 18:00: not so");
        }
        QVERIFY(held);
        const auto course = r.course("wall:fold");
        QVERIFY(course.size() == 3 && course[0] == std::pair(30 * minute, 1.0) &&
                course[2].first == (10 * 60 + 30) * minute);
        QVERIFY(r.course("box/speech.gain").size() > 40); // it faded
    }
    void theSameAgain() { // in one go or step by step
        const auto p = project();
        std::mt19937 dice(5);
        for (int n = 0; n < 20; ++n) {
            Rehearsal a(p, utcOf("2026-11-30T07:00:00")), b(p, utcOf("2026-11-30T07:00:00"));
            Millis t = 0;
            for (int i = 0; i < 60; ++i) {
                t += static_cast<Millis>(dice() % (20 * minute));
                const char* const paths[] = {"wall:fold", "button:oak-tap", "box/music.gain"};
                const auto which = dice() % 3;
                const double v = which == 2 ? -static_cast<double>(dice() % 40) : dice() % 2;
                a.plan({t, paths[which], v}), b.plan({t, paths[which], v});
            }
            a.go(dayLong);
            while (b.now() < dayLong)
                b.go(std::min<Millis>(dayLong, b.now() + 1 + static_cast<Millis>(dice() % (7 * minute))));
            QVERIFY(a.events() == b.events());
            QVERIFY(a.happened() == b.happened());
        }
    }
    void badDays_data() {
        QTest::addColumn<QString>("text");
        QTest::addColumn<QString>("says");
        QTest::newRow("no time") << "wall:fold open"
                                 << "line 1";
        QTest::newRow("no such") << "\n08:00 wall:lost open"
                                 << "line 2";
        QTest::newRow("no value") << "08:00 wall:fold"
                                  << "line 1";
        QTest::newRow("no state") << "08:00 wall:fold ajar"
                                  << "line 1";
        QTest::newRow("before") << "06:00 wall:fold open"
                                << "line 1";
        QTest::newRow("only a time") << "08:00"
                                     << "line 1";
    }
    void badDays() {
        QFETCH(QString, text);
        QFETCH(QString, says);
        const auto day = readDay(project(), text.toStdString(), utcOf("2026-11-30T07:00:00"));
        QVERIFY(!day);
        QVERIFY2(QString::fromStdString(day.error().text()).startsWith(says), day.error().text().c_str());
    }
    void testsHoldAndFail() {
        auto p = project();
        Rehearsal r(p, utcOf("2026-11-30T08:00:00"));
        r.go(minute);
        r.happen("wall:fold", 1);
        r.go(2 * minute);
        const auto test = testOf(r, "t", "The wall opens");
        QCOMPARE(test.when.size(), std::size_t(1));
        QVERIFY(test.expect.size() == 1 && test.expect[0].signal == "box/speech.gain" && test.expect[0].to == "-8");
        const auto added = project::addTest(p, test);
        QVERIFY(bool(added));
        p = *added->make(p);
        QVERIFY(runTest(p, p.ruleTests[0]).passed);
        // What was kept in a file is what is run.
        const auto again = schema::fromJson<RehearsalTest>(toJson(p.ruleTests[0]));
        QVERIFY(again && *again == p.ruleTests[0]);
        auto broken = p;
        broken.rule("wall")->then.clear();
        const auto bad = runTest(broken, p.ruleTests[0]);
        QVERIFY(!bad.passed);
        QCOMPARE(QString::fromStdString(bad.failure),
                 QString("at 120 s Speech \u00b7 Level is 0.0 dB instead of \u22128.0 dB"));
        auto given = test;
        given.given = {{0, "box/speech.gain", "-3"}};
        given.when.clear(), given.expect[0].to = "-3";
        QVERIFY(runTest(p, given).passed);
        given.expect[0].signal = "box/gone.gain";
        QVERIFY(!runTest(p, given).passed);
        given.expect = {{1, "cue:Never", ""}};
        QVERIFY(!runTest(p, given).passed);
        given.when = {{0.5, "cue:Never", ""}};
        given.begins = "2026-02-31T00:00:00";
        QVERIFY(!runTest(p, given).passed);
        auto empty = test;
        empty.expect.clear();
        QVERIFY(!project::addTest(p, empty));
    }
    void clocksMayJump() {
        Rehearsal r(project(), utcOf("2026-11-30T17:00:00"));
        r.go(minute);
        r.clockJumps(50 * minute); // over the closing call
        QVERIFY(std::any_of(r.events().begin(), r.events().end(),
                            [](const RuleEvent& e) { return e.kind == RuleEvent::Kind::missed; }));
    }
};

LOOM_TEST(tst_rehearsal, TestRehearsal)
#include "tst_rehearsal.moc"
