// What is next on site, and in which words.
#ifndef Q_MOC_RUN
#include "client/situation.h"
#endif
#include "test.h"

using namespace loom::client;
using Step = Situation::Step;

class TestSituation : public QObject {
    Q_OBJECT

  private slots:
    // From the workshop to a system that is kept: one thing is next at a time.
    void oneThingIsNext() {
        Situation s;
        s.certain = s.byPosition = true;
        QVERIFY(s.next() == Step::look);
        s.looked = true;
        QVERIFY(s.next() == Step::pair);
        s.certain = false;
        QVERIFY(s.next() == Step::pairRest);
        s.byPosition = false;
        QVERIFY(s.next() == Step::none);
        s.devices = 3, s.up = 3, s.empty = 2;
        QVERIFY(s.canTry() && s.next() == Step::tryIt);
        s.byPosition = true; // what is paired goes on first
        QVERIFY(s.next() == Step::tryIt);
        s.differ = 4, s.open = 1;
        QVERIFY(s.canTry() && s.next() == Step::pairRest); // a side is to be chosen first
        s.byPosition = false;
        QVERIFY(s.next() == Step::none);
        s.open = 0;
        QVERIFY(s.next() == Step::tryIt);
        s.empty = s.differ = 0, s.loose = 3;
        QVERIFY(!s.canTry() && s.canKeep() && s.next() == Step::keep);
        s.busy = true;
        QVERIFY(!s.canKeep() && s.next() == Step::none);
        s.busy = false, s.loose = 0;
        QVERIFY(s.next() == Step::none);
    }
    void nothingIsOfferedThatCannotBe() {
        Situation s;
        s.looked = true, s.devices = 1, s.differ = 2, s.loose = 1, s.back = 4, s.empty = 1;
        QVERIFY(!s.canTry() && !s.canKeep() && !s.canTake() && !s.canGoBack()); // no line
        s.up = 1;
        QVERIFY(s.canTry() && s.canKeep() && s.canTake() && s.canGoBack());
        s.devices = 2;
        QVERIFY(!s.canGoBack()); // of one alone
        s.devices = 1, s.back = 0;
        QVERIFY(!s.canGoBack());
        s.differ = 0;
        QVERIFY(!s.canTake() && s.canTry());
        s.empty = 0;
        QVERIFY(!s.canTry());
    }
    void words() {
        Situation s;
        QVERIFY(s.sentence().find("Look for devices") == 0);
        s.looked = true;
        QVERIFY(s.sentence().find("Pair the planned") == 0);
        s.devices = 5, s.locked = 2;
        QCOMPARE(s.sentence(), std::string("2 sealed: give the password under Seal."));
        s.locked = 0;
        QVERIFY(s.sentence().ends_with("nothing of the design is lost."));
        s.differ = 3;
        QVERIFY(s.sentence().ends_with("nothing of the design is lost, 3 edits wait."));
        s.up = 5, s.open = 1;
        QCOMPARE(s.sentence(), std::string("1 value waits for a side: choose before going on."));
        s.open = 2;
        QCOMPARE(s.sentence(), std::string("2 values wait for a side: choose before going on."));
        s.open = 0;
        QCOMPARE(s.sentence(), std::string("3 values differ from the design."));
        s.differ = 1;
        QCOMPARE(s.sentence(), std::string("1 value differs from the design."));
        s.differ = 0, s.empty = 2;
        QCOMPARE(s.sentence(), std::string("Nothing was tried on 2 yet."));
        s.empty = 0, s.loose = 5;
        QCOMPARE(s.sentence(), std::string("They run the design; 5 not kept: lost at power-off."));
        s.loose = 0;
        QCOMPARE(s.sentence(), std::string("What runs is the design, and is kept."));
    }
};

LOOM_TEST(tst_situation, TestSituation)
#include "tst_situation.moc"
