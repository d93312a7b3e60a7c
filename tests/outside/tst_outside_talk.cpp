// Talk with an outside device: in which order things are said, when it is asked again, and when it is lost.
#ifndef Q_MOC_RUN
#include "outside/outside_talk.h"
#endif
#include "test.h"

using namespace loom;
using namespace loom::project;

namespace {

OutsideKind display() {
    OutsideKind k;
    k.id = "display", k.ends = "\r", k.pause = 0.1, k.patience = 1, k.tries = 3;
    OutsideState power;
    power.id = "power", power.choices = {"off", "on"}, power.codes = {"0", "1"};
    power.set = "POWER {value}\r", power.ask = "POWER?\r", power.answer = "POWER={value}", power.every = 10;
    OutsideState volume;
    volume.id = "volume", volume.high = 100, volume.set = "VOL {value}\r"; // never asked for
    k.states = {power, volume};
    k.commands = {{"menu", "Menu", "MENU\r"}};
    return k;
}

} // namespace

class TestOutsideTalk : public QObject {
    Q_OBJECT
    using Words = std::vector<std::string>;
    using Changes = std::vector<OutsideChange>;

  private slots:
    void oneThingAfterTheOther() {
        OutsideTalk t(display());
        t.step(0);
        QVERIFY(t.take().empty() && !t.value("power") && !t.value("there"));
        t.connected(true, 1);
        t.step(1);
        QCOMPARE(t.take(), Words{"POWER?\r"});
        QVERIFY(t.set("volume", 30, 1.01) && t.say("menu", 1.01));
        t.step(1.5); // still waiting for the answer
        QVERIFY(t.take().empty());
        t.heard("POW", 1.5);
        t.heard("ER=1\rPOWER", 1.6);
        QCOMPARE(t.takeChanges(), (Changes{{"volume", 30}, {"there", 1}, {"power", 1}}));
        t.step(1.65); // the pause
        QVERIFY(t.take().empty());
        t.step(1.71);
        QCOMPARE(t.take(), Words{"VOL 30\r"});
        t.step(1.75);
        QVERIFY(t.take().empty());
        t.step(1.82);
        QCOMPARE(t.take(), Words{"MENU\r"});
        QCOMPARE(t.value("volume"), std::optional(30.0));
        QVERIFY(t.there());
    }
    void whatIsSetIsAskedFor() {
        OutsideTalk t(display());
        t.connected(true, 0);
        t.step(0);
        t.heard("POWER=0\r", 0.1);
        (void)t.take(), (void)t.takeChanges();
        QVERIFY(t.set("power", 1, 0.2));
        QCOMPARE(t.value("power"), std::optional(1.0)); // as it will be
        t.heard("POWER=0\r", 0.21);                     // said before it was told
        QCOMPARE(t.value("power"), std::optional(1.0));
        t.step(0.3);
        t.step(0.41);
        QCOMPARE(t.take(), (Words{"POWER 1\r", "POWER?\r"}));
        t.heard("POWER=0\r", 0.5); // it did not
        QCOMPARE(t.value("power"), std::optional(0.0));
        // Of many values only the last goes out.
        for (int i = 0; i < 50; ++i)
            QVERIFY(t.set("volume", i, 1));
        t.step(1);
        t.step(2);
        QCOMPARE(t.take(), Words{"VOL 49\r"});
        QVERIFY(!t.set("volume", 101, 2) && !t.set("volume", -1, 2) && !t.set("power", 2, 2) && !t.set("light", 1, 2));
        QVERIFY(!t.say("power", 2) && !t.ask("volume", 2));
    }
    void lostAndBack() {
        OutsideTalk t(display());
        t.connected(true, 0);
        Words sent;
        for (double at = 0; at < 4; at += 0.05) {
            t.step(at);
            for (auto& w : t.take())
                sent.push_back(w);
        }
        QCOMPARE(sent, (Words{"POWER?\r", "POWER?\r", "POWER?\r"})); // three times
        QVERIFY(!t.there());
        QCOMPARE(t.takeChanges(), (Changes{{"there", 0}}));
        sent.clear();
        for (double at = 4; at < 9; at += 0.05) {
            t.step(at);
            for (auto& w : t.take())
                sent.push_back(w);
        }
        QVERIFY(!sent.empty()); // now and then
        t.heard("POWER=1\r", 9);
        QVERIFY(t.there());
        QCOMPARE(t.takeNotes().back(), std::string("answers"));
        t.connected(false, 10);
        QVERIFY(!t.there());
        QCOMPARE(t.takeNotes(), Words{"does not answer"});
        QVERIFY(t.set("volume", 5, 11)); // waits for the line
        t.step(11);
        QVERIFY(t.take().empty());
        t.connected(true, 12);
        t.step(12);
        QCOMPARE(t.take(), Words{"VOL 5\r"});
    }
    void asksAgainInTime() {
        OutsideTalk t(display());
        t.connected(true, 0);
        t.step(0);
        t.heard("POWER=1\r", 0.1);
        (void)t.take();
        t.step(9.9);
        QVERIFY(t.take().empty());
        t.step(10.1);
        QCOMPARE(t.take(), Words{"POWER?\r"});
    }
    void rubbish() {
        OutsideTalk t(display());
        t.connected(true, 0);
        t.step(0);
        for (int i = 0; i < 1000; ++i)
            t.heard("nobody knows\r", 1 + i * 0.001);
        t.heard(std::string(1 << 20, 'x'), 3);
        t.heard("\rPOWER=1\r", 3);
        QCOMPARE(t.takeNotes(), (Words{"says what its description does not know: nobody knows", "answers"}));
        QCOMPARE(t.value("power"), std::optional(1.0)); // what came behind it is heard
        t.heard("POWER=7\r", 4);
        t.heard("POWER=\r", 4);
        QCOMPARE(t.value("power"), std::optional(1.0));
        t.heard(std::string(5000, 'y') + "\r", 100);
        QCOMPARE(t.takeNotes(), Words{"says more than 4,096 bytes at once; it is not taken"});
        t.heardWhole("POWER=0", 101);
        QCOMPARE(t.value("power"), std::optional(0.0));
        // More than it can take.
        for (int i = 0; i < 1000; ++i)
            QVERIFY(t.say("menu", 101));
        QVERIFY(t.takeNotes().size() > 100);
    }
    void withoutAnEnd() {
        auto k = display();
        k.ends.clear();
        OutsideTalk t(k);
        t.connected(true, 0);
        t.step(0);
        t.heard("POWER", 0.2);
        t.step(0.25);
        t.heard("=1", 0.25);
        t.step(0.3);
        QVERIFY(!t.value("power"));
        t.step(0.36);
        QCOMPARE(t.value("power"), std::optional(1.0));
    }
    void codes() {
        const auto k = display();
        QCOMPARE(*OutsideTalk::codeOf(k.states[0], 1), std::string("1"));
        QVERIFY(!OutsideTalk::codeOf(k.states[0], 2) && !OutsideTalk::codeOf(k.states[0], -1));
        QCOMPARE(*OutsideTalk::codeOf(k.states[1], 30.4), std::string("30"));
        QCOMPARE(OutsideTalk::valueOf(k.states[0], " 01 "), std::optional(1.0));
        QCOMPARE(OutsideTalk::valueOf(k.states[1], "33"), std::optional(33.0));
        QVERIFY(!OutsideTalk::valueOf(k.states[1], "133") && !OutsideTalk::valueOf(k.states[0], "on"));
        auto words = k.states[0];
        words.codes.clear();
        QCOMPARE(OutsideTalk::valueOf(words, "ON"), std::optional(1.0));
    }
};

LOOM_TEST(tst_outside_talk, TestOutsideTalk)
#include "tst_outside_talk.moc"
