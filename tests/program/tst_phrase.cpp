// What people say to Weave, and what it makes of it.
#ifndef Q_MOC_RUN
#include "engine/block_kind.h"
#include "engine/schedule.h"
#include "findings/findings.h"
#include "models.h"
#include "program/phrase.h"
#include "program/program_edit.h"
#include "program/routes.h"
#endif
#include "test.h"

using namespace loom;
using namespace loom::project;
using engine::PortRef;

class TestPhrase : public QObject {
    Q_OBJECT
    static Device empty() {
        Device d;
        d.models = test::models();
        d.id = "p", d.name = "P", d.model = "heddle-16", d.rate = 48000;
        d.program.emplace();
        return d;
    }
    // Says it and goes on with what came of it.
    static std::vector<std::string> say(Device& d, const std::string& phrase,
                                        const std::vector<std::string>& lanes = {}, const std::string& after = {}) {
        auto s = speak(d, lanes, after, phrase);
        if (!s) {
            qWarning("%s: %s", phrase.c_str(), s.error().text().c_str());
            return {"trouble"};
        }
        d.program = s->program;
        return s->lanes;
    }
    static std::vector<std::string> chain(const Device& d, const std::string& lane) {
        std::vector<std::string> kinds;
        PortRef at{lane, 0};
        for (;;) {
            const engine::Connection* next = nullptr;
            for (const auto& t : d.program->connections)
                if (t.from == at)
                    next = &t;
            if (!next)
                return kinds;
            const auto* b = d.program->find(next->to.block);
            kinds.push_back(b->kind);
            if (engine::inputsOf(*d.program, *b) != 1 || engine::outputsOf(*d.program, *b) != 1)
                return kinds;
            at = {b->id, 0};
        }
    }
    using Values = std::map<std::string, double>;

  private slots:
    void words_data() {
        QTest::addColumn<QString>("text");
        QTest::addColumn<QString>("kind");
        QTest::addColumn<QString>("values"); // "corner=90 slope=2"
        QTest::newRow("bare") << "highpass 90"
                              << "highpass"
                              << "corner=90";
        QTest::newRow("label") << "High-pass 1k2 bessel"
                               << "highpass"
                               << "corner=1200 shape=2";
        QTest::newRow("beginning") << "compr -20 4:1 5ms"
                                   << "compressor"
                                   << "threshold=-20 ratio=4 attack=5";
        QTest::newRow("band") << "eq 3k1 +3 Q2"
                              << "eq"
                              << "1.hz=3100 1.gain=3 1.q=2";
        QTest::newRow("two bands") << "eq 3k1 +3 250 -4.5 Q1"
                                   << "eq"
                                   << "1.hz=3100 1.gain=3 2.hz=250 2.gain=-4.5 2.q=1";
        QTest::newRow("width in octaves") << "eq 1k 1oct -6"
                                          << "eq"
                                          << "1.hz=1000 1.gain=-6 1.q=1.414213562";
        QTest::newRow("switch") << "preamp 36 phantom"
                                << "preamp"
                                << "gain=36 phantom=1";
        QTest::newRow("named") << "gate threshold=-50 range=20"
                               << "gate"
                               << "threshold=-50 range=20";
        QTest::newRow("metres") << "delay 3m"
                                << "delay"
                                << "time=8.74";
        QTest::newRow("choice") << "level -6 inverted"
                                << "level"
                                << "gain=-6 polarity=1";
    }
    void words() {
        QFETCH(QString, text);
        QFETCH(QString, kind);
        QFETCH(QString, values);
        const auto said = readPhrase(text.toStdString());
        QVERIFY2(bool(said), said ? "" : said.error().text().c_str());
        QCOMPARE(said->size(), 1u);
        QCOMPARE(QString::fromStdString(said->front().kind), kind);
        Values want;
        for (const auto& w : values.split(' '))
            want[w.section('=', 0, 0).toStdString()] = w.section('=', 1).toDouble();
        QCOMPARE(said->front().values.size(), want.size());
        for (const auto& [param, value] : want)
            QVERIFY2(std::abs(said->front().values.at(param) - value) < 0.01, param.c_str());
    }
    void severalBlocksAndEnds() {
        auto said = readPhrase("highpass 90 eq 3k1 +3, level -2");
        QVERIFY(said && said->size() == 3);
        QCOMPARE((*said)[2].values, (Values{{"gain", -2}}));
        said = readPhrase("source Delegate {n} x8, Chair level, Far end @usb1");
        QVERIFY(said && said->size() == 3);
        QCOMPARE((*said)[0].label, std::string("Delegate {n}"));
        QCOMPARE((*said)[0].copies, 8);
        QCOMPARE((*said)[1].label, std::string("Chair level")); // a name, not a block
        QCOMPARE((*said)[2].port, std::string("usb1"));
        said = readPhrase("destination Ceiling x2, Record @net1, eq 1k -3, limiter");
        QVERIFY(said && said->size() == 4);
        QCOMPARE((*said)[1].label, std::string("Record")); // though a recorder begins like that
        QCOMPARE((*said)[1].kind, std::string("destination"));
        QCOMPARE((*said)[3].kind, std::string("limiter"));
    }
    void nonsenseIsNamed() {
        for (const char* bad : {"", "  ", "/", "eqq", "eq 90k", "eq loud", "highpass 90 90", "level x", "3k1",
                                "eq gain=", "eq =3", "level +", "delay -3ms"}) {
            const auto said = readPhrase(bad);
            QVERIFY2(!said, bad);
            QVERIFY(!said.error().remedy.empty());
        }
        const auto said = readPhrase("highpass 90 quark");
        QVERIFY(QString::fromStdString(said.error().message).contains("quark"));
        QVERIFY(!readPhrase(std::string(3000, 'x')));
    }
    void lanesWithChains() {
        Device d = empty();
        const auto lanes = say(d, "source Chair, Delegate x3");
        QCOMPARE(lanes, (std::vector<std::string>{"chair", "delegate-1", "delegate-2", "delegate-3"}));
        QCOMPARE(d.program->find("delegate-2")->texts.at("port"), std::string("in 3"));
        say(d, "preamp 36 highpass 90 eq 3k1 +3", lanes);
        for (const auto& lane : lanes)
            QCOMPARE(chain(d, lane), (std::vector<std::string>{"preamp", "highpass", "eq"}));
        const auto& eq = *d.program->find("delegate-3.eq");
        QCOMPARE(eq.values.at("1.gain"), 3.0);
        QCOMPARE(eq.values.at("1.on"), 1.0); // what is said is heard
        say(d, "octave", {"delegate-1"});    // measures one channel, and lies on the lane like any bead
        QCOMPARE(d.program->find("delegate-1.octave")->kind, std::string("octave"));
        // Behind one bead of one lane.
        say(d, "gate", {"chair"}, "chair.preamp");
        QCOMPARE(chain(d, "chair"), (std::vector<std::string>{"preamp", "gate", "highpass", "eq"}));
        // New lanes with their blocks at once.
        say(d, "source Desk x2, level -6 limiter");
        QCOMPARE(chain(d, "desk-2"), (std::vector<std::string>{"level", "limiter"}));
        // All ports of a kind in use: nothing is done.
        const auto before = *d.program;
        QCOMPARE(say(d, "source x90"), (std::vector<std::string>{"trouble"}));
        QCOMPARE(*d.program, before);
        QCOMPARE(say(d, "source Far @cellar1"), (std::vector<std::string>{"trouble"}));
    }
    void lanesMeetAndGoOn() {
        Device d = empty();
        const auto lanes = say(d, "source Delegate x4, preamp 30");
        say(d, "echo", lanes);
        QCOMPARE(engine::BlockView(*d.program->find("echo")).shape.at("channels"), 4);
        QCOMPARE(openEnd(*d.program, "delegate-3"), (PortRef{"echo", 2}));
        say(d, "level -3", lanes); // behind it, on every lane
        QCOMPARE(d.program->into({"delegate-4.level", 0})->from, (PortRef{"echo", 3}));
        // One that is put in front of what is there keeps what comes after it.
        say(d, "automixer", lanes);
        QCOMPARE(d.program->into({"automixer", 3})->from, (PortRef{"delegate-4.level", 0}));
        QCOMPARE(openEnd(*d.program, "delegate-1"), (PortRef{"automixer", 0}));
        const auto far = say(d, "source Far end @usb1, level");
        QCOMPARE(d.program->find(far.at(0))->texts.at("port"), std::string("usb 1"));
        say(d, "> *reference", far);
        QCOMPARE(d.program->into({"echo", 4})->from, (PortRef{"far-end.level", 0}));
        say(d, "destination Ceiling x2, Loop, Far send @usb1");
        say(d, "> ceiling* -6", {"automixer"});
        say(d, "> *", far);
        const auto& hub = *d.program->find("matrix");
        QCOMPARE(engine::BlockView(hub).inputs(), 2);
        QCOMPARE(engine::BlockView(hub).outputs(), 4);
        QCOMPARE(engine::BlockView(hub).look()["1.2"], -6.0);
        QCOMPARE(engine::BlockView(hub).look()["1.3"], -80.0);
        QCOMPARE(engine::BlockView(hub).look()["2.4"], 0.0);
        QCOMPARE(entryOf(*d.program, "loop"), (PortRef{"loop", 0}));
        say(d, "eq limiter", {"loop"});
        QCOMPARE(entryOf(*d.program, "loop"), (PortRef{"loop.eq", 0}));
        QCOMPARE(say(d, "> nowhere", far), (std::vector<std::string>{"trouble"}));
        QVERIFY(engine::compile(*d.program, 48000, {}));
        for (const auto& f : check(d))
            QVERIFY2(f.severity() == Severity::note, f.reason.c_str());
    }
    void loopsAreRefused() {
        Device d = empty();
        const auto lanes = say(d, "source A x2");
        say(d, "destination Out");
        say(d, "matrix", {lanes[0], lanes[1], "out"});
        QCOMPARE(d.program->into({"out", 0})->from, (PortRef{"matrix", 0}));
        say(d, "echo", lanes);
        const auto before = *d.program;
        const auto s = speak(d, {"matrix"}, "", "> *reference"); // what the mixer makes, back into what feeds it
        QVERIFY(!s && QString::fromStdString(s.error().message).contains("loop"));
        QCOMPARE(*d.program, before);
    }
    void patternsAndNames() {
        QVERIFY(fitsPattern("ceil*1", "Ceiling zone 1"));
        QVERIFY(fitsPattern("*", ""));
        QVERIFY(fitsPattern("?oop", "Loop"));
        QVERIFY(!fitsPattern("ceil*2", "Ceiling zone 1"));
        QVERIFY(!fitsPattern("*a*a*a*a*a*a*a*b", std::string(4000, 'a')));
        Device d = empty();
        const auto lanes = say(d, "source x3");
        const auto named = renameBlocks(*d.program, lanes, "Delegate {n}");
        QCOMPARE(named.find(lanes[2])->label, std::string("Delegate 3"));
        QCOMPARE(renameBlocks(named, {lanes[0]}, "Chair").find(lanes[0])->label, std::string("Chair"));
    }
};
LOOM_TEST(tst_phrase, TestPhrase)
#include "tst_phrase.moc"
