// Rules as people type and read them.
#include "rules/occasions.h"
#include "rules_demo.h"

using namespace loom;
using namespace loom::project;
using namespace loom::test;

class TestSentence : public QObject {
    Q_OBJECT
    Project p_ = rulesProject();

  private slots:
    void initTestCase() {
        p_.scenes.push_back({"joined", "Joined"});
        p_.scenes.changeBack().values["box/speech.gain"] = -8;
        p_.scripts.push_back({"count", "Count them", ""});
        p_.rules.push_back({"other", "The other one"});
        Surface s;
        s.id = "slate", s.name = "Oak slate";
        SurfacePage page;
        page.id = "main", page.name = "Main";
        page.plies.push_back({"own", "Own sources"});
        s.pages.push_back(page);
        p_.surfaces.push_back(s);
    }
    // What was typed, what is read of it, and how it is written again.
    void typed_data() {
        QTest::addColumn<int>("part");
        QTest::addColumn<QString>("text");
        QTest::addColumn<QString>("kind");
        QTest::addColumn<QString>("slots_");
        QTest::addColumn<QString>("shown");
        const auto row = [](Part part, const char* text, const char* kind, const char* fills, const char* shown) {
            QTest::newRow(text) << static_cast<int>(part) << QString(text) << QString(kind) << QString(fills)
                                << QString(shown);
        };
        row(Part::trigger, "Oak | Elm wall becomes open and stays so for 2 s", "becomes",
            "for=2;signal=wall:fold;state=open", "Oak | Elm wall becomes open and stays so for 2 s");
        row(Part::trigger, "wall:fold becomes closed", "becomes", "signal=wall:fold;state=closed",
            "Oak | Elm wall becomes closed");
        row(Part::trigger, "OAK TAP becomes pressed", "becomes", "signal=button:oak-tap;state=pressed",
            "Oak tap becomes pressed");
        row(Part::trigger, "dial \u00b7 knob 1 is turned", "changes", "signal=knob:dial/knob 1",
            "Dial \u00b7 knob 1 is turned");
        row(Part::trigger, "it is 17:45 on weekdays except 2026-12-24, 12-25", "time",
            "dates=2026-12-24, 12-25;days=weekdays;time=17:45", "it is 17:45 on weekdays except 2026-12-24, 12-25");
        row(Part::trigger, "it is 7:05 on mon and Friday, up to 30 late", "time", "days=Mon Fri;late=30;time=07:05",
            "it is 07:05 on Mon Fri, up to 30 min late");
        row(Part::trigger, "it is 20 min before sunset on every day", "sun",
            "days=every day;offset=20;side=before;sun=sunset", "it is 20 min before sunset on every day");
        row(Part::trigger, "it is sunrise on weekends", "sun", "days=weekends;sun=sunrise",
            "it is sunrise on weekends");
        row(Part::trigger, "every 1 h", "every", "minutes=60", "every 60 min");
        row(Part::trigger, "the cue Closing call is given", "cue", "cue=cue:Closing call",
            "the cue Closing call is given");
        row(Part::trigger, "  power   comes ", "start", "", "power comes");
        row(Part::trigger, "Speech \u00b7 Level rises above -6 and stays so for 500 ms", "above",
            "for=0.5;signal=box/speech.gain;state=-6", "");
        row(Part::condition, "Oak | Elm wall is not open", "not", "signal=wall:fold;state=open",
            "Oak | Elm wall is not open");
        row(Part::condition, "it is between 22:00 and 6:00", "between", "from=22:00;to=06:00",
            "it is between 22:00 and 06:00");
        row(Part::condition, "today is one of weekends", "days", "days=weekends", "today is one of weekends");
        row(Part::condition, "Joined was the last scene", "last", "scene=joined", "Joined was the last scene");
        row(Part::action, "recall joined over 0.8 s", "scene", "over=0.8;scene=joined", "recall Joined over 0.8 s");
        row(Part::action, "set box/speech.gain to -8 dB over 2", "set", "over=2;signal=box/speech.gain;state=-8", "");
        row(Part::action, "set box/speech.gain to off", "set", "signal=box/speech.gain;state=off", "");
        row(Part::action, "change box/speech.gain by -3", "step", "by=-3;signal=box/speech.gain", "");
        row(Part::action, "turn box/cut.muted over", "toggle", "signal=box/cut.muted", "");
        row(Part::action, "play closing.wav on box/tape at -18", "play", "file=closing.wav;level=-18;player=box/tape",
            "");
        row(Part::action, "Oak slate says It is 5 to 6 for 20 s", "say", "for=20;surface=slate;text=It is 5 to 6",
            "Oak slate says It is 5 to 6 for 20 s");
        row(Part::action, "oak slate shows the page main", "page", "page=main;surface=slate",
            "Oak slate shows the page Main");
        row(Part::action, "Oak slate closes own", "close", "ply=main/own;surface=slate",
            "Oak slate closes Main \u00b7 Own sources");
        row(Part::action, "wait 1 min", "wait", "for=60", "wait 1 min");
        row(Part::action, "run count", "script", "script=count", "run Count them");
        row(Part::action, "wake the rule The other one", "rule", "rule=other", "wake the rule The other one");
        row(Part::action, "note Doors, at last", "note", "text=Doors, at last", "note Doors, at last");
    }
    void typed() {
        QFETCH(int, part);
        QFETCH(QString, text);
        QFETCH(QString, kind);
        QFETCH(QString, slots_);
        QFETCH(QString, shown);
        const auto c = readClause(p_, static_cast<Part>(part), text.toStdString());
        QVERIFY2(bool(c), c.error().text().c_str());
        QCOMPARE(QString::fromStdString(c->kind), kind);
        QStringList all;
        for (const auto& [slot, value] : c->gaps)
            all << QString::fromStdString(slot + "=" + value);
        QCOMPARE(all.join(';'), slots_);
        const auto again = sentenceText(p_, static_cast<Part>(part), *c);
        if (!shown.isEmpty())
            QCOMPARE(QString::fromStdString(again), shown);
        const auto twice = readClause(p_, static_cast<Part>(part), again);
        QVERIFY2(bool(twice), (again + ": " + twice.error().text()).c_str());
        QVERIFY(*twice == *c);
        for (const auto& piece : sentenceOf(p_, static_cast<Part>(part), *c))
            QVERIFY2(!piece.wrong, piece.text.c_str());
    }
    void refused_data() {
        QTest::addColumn<int>("part");
        QTest::addColumn<QString>("text");
        QTest::addColumn<QString>("says");
        const auto row = [](Part part, const char* text, const char* says) {
            QTest::newRow(text) << static_cast<int>(part) << QString(text) << QString(says);
        };
        row(Part::action, "", "nothing was typed");
        row(Part::action, "make tea", "is no sentence here");
        row(Part::action, "recall Nowhere", "there is no scene \"Nowhere\"");
        row(Part::action, "set box/speech.gain to 400", "outside the range");
        row(Part::action, "set wall:fold to open", "there is no \"wall:fold\" here");
        row(Part::action, "wait for ever", "no span of time");
        row(Part::action, "play lost.wav on box/tape", "there is no file");
        row(Part::trigger, "it is 25:00 on weekdays", "no time of day");
        row(Part::trigger, "it is 17:45 on Blursday", "no day of the week");
        row(Part::trigger, "it is 17:45 on weekdays except 2026-02-30", "no date");
        row(Part::trigger, "wall:fold becomes ajar", "ajar");
        row(Part::condition, "box becomes loud", "is no sentence here");
    }
    void refused() {
        QFETCH(int, part);
        QFETCH(QString, text);
        QFETCH(QString, says);
        const auto c = readClause(p_, static_cast<Part>(part), text.toStdString());
        QVERIFY(!c);
        QVERIFY2(QString::fromStdString(c.error().text()).contains(says), c.error().text().c_str());
    }
    void tooLong() {
        QVERIFY(!readClause(p_, Part::action, "note " + std::string(600, 'x')));
        QVERIFY(!readClause(p_, Part::action, std::string(100000, ' ') + std::string(100000, '[')));
    }
    void gapsAreFilled() {
        Clause c;
        c.kind = "set";
        c = *withGap(p_, Part::action, c, "signal", "box/speech.gain");
        QVERIFY(!withGap(p_, Part::action, c, "state", "loud"));
        c = *withGap(p_, Part::action, c, "state", "-12 dB");
        QCOMPARE(c["state"], std::string("-12"));
        c = *withGap(p_, Part::action, c, "over", "3");
        QCOMPARE(c["over"], std::string("3"));
        c = *withGap(p_, Part::action, c, "over", "");
        QVERIFY(!c.gaps.count("over"));
        QVERIFY(!withGap(p_, Part::action, c, "signal", ""));
        QVERIFY(!withGap(p_, Part::action, c, "nothing", "1"));
        // What does not fit what it depends on is open again.
        c = *withGap(p_, Part::action, c, "signal", "box/cut.muted");
        QVERIFY(!c.gaps.count("state"));
        QVERIFY(sentenceOf(p_, Part::action, c).back().wrong);
        // What stands in one pair of brackets goes together.
        auto sun = said(p_, Part::trigger, "it is 20 min before sunset on weekdays");
        sun = *withGap(p_, Part::trigger, sun, "side", "");
        QVERIFY(!sun.gaps.count("offset") && !sun.gaps.count("side"));
    }
    void completions() {
        const auto lines = [&](Part part, const char* typed) {
            QStringList all;
            for (const auto& c : completionsOf(p_, part, typed, 60))
                all << QString::fromStdString(c.line);
            return all;
        };
        QVERIFY(lines(Part::action, "").contains("recall "));
        QVERIFY(lines(Part::action, "rec").contains("recall "));
        QVERIFY(lines(Part::action, "recall ").contains("recall Joined"));
        QVERIFY(lines(Part::action, "recall Joi").contains("recall Joined over "));
        QVERIFY(lines(Part::trigger, "oak").contains("Oak | Elm wall becomes "));
        QVERIFY(lines(Part::trigger, "Oak | Elm wall becomes ").contains("Oak | Elm wall becomes open"));
        QVERIFY(lines(Part::trigger, "Oak | Elm wall bec").contains("Oak | Elm wall becomes "));
        QVERIFY(lines(Part::trigger, "it is 17:45 on ").contains("it is 17:45 on weekdays"));
        QVERIFY(lines(Part::action, "make tea ").isEmpty());
        // Whatever is offered can be gone on with, down to a whole sentence.
        QString line;
        for (int i = 0; i < 8; ++i) {
            const auto all = completionsOf(p_, Part::action, line.toStdString(), 60);
            QVERIFY(!all.empty());
            line = QString::fromStdString(all[0].line);
            if (readClause(p_, Part::action, line.toStdString()))
                return;
        }
        QFAIL(qPrintable(line));
    }
    void wholeRules() {
        const auto r =
            readRule(p_, "Seminar\n\nwhen Oak | Elm wall becomes open\nonly if it is between 8:00 and 18:00\n"
                         "# a remark\nthen recall Joined over 2 s\nelse note too late\n");
        QVERIFY2(bool(r), r.error().text().c_str());
        QCOMPARE(r->name, std::string("Seminar"));
        QVERIFY(r->when.size() == 1 && r->only.size() == 1 && r->then.size() == 1 && r->otherwise.size() == 1);
        const auto again = readRule(p_, ruleText(p_, *r));
        QVERIFY(again && *again == *r);
        const auto bad = readRule(p_, "Seminar\nthen recall Nowhere");
        QVERIFY(!bad && bad.error().place == "line 2");
        QVERIFY(!readRule(p_, "Only a name"));
        QVERIFY(!readRule(p_, "Name\nsomething else"));
    }
    void occasionsAreCounted() {
        auto p = p_;
        addRule(p, "a", "when Oak | Elm wall becomes open and stays so for 2 s\nthen recall Joined");
        addRule(p, "b", "when Oak | Elm wall becomes open\nthen note open");
        addRule(p, "c", "when it is 8:00 on weekdays\nthen note morning");
        const auto all = occasionsOf(p);
        int found = 0;
        for (const auto& o : all) {
            if (o.label == "Oak | Elm wall becomes open") {
                QVERIFY(o.rules == (std::vector<std::string>{"a", "b"}) && o.group == "Walls");
                ++found;
            }
            if (o.label == "Oak | Elm wall becomes closed")
                found += o.rules.empty();
            if (o.group == "Clock")
                found += o.rules.size() == 1;
        }
        QCOMPARE(found, 3);
        QVERIFY(!occasionsOf(p, "box lost").empty()); // only where it is asked for
        QVERIFY(std::none_of(all.begin(), all.end(), [](const auto& o) { return o.label == "Box becomes lost"; }));
    }
};

LOOM_TEST(tst_sentence, TestSentence)
#include "tst_sentence.moc"
