// Tools at a thread of what runs, and the trace back to where sound is lost.
#ifndef Q_MOC_RUN
#include "demo_hall.h"
#include "engine/runner.h"
#include "program/heard_response.h"
#include "program/render.h"
#include "program/tools.h"
#include "program/trace.h"
#endif
#include "test.h"

using namespace loom;
using namespace loom::project;
using namespace loom::test;
using engine::Program;

class TestTools : public QObject {
    Q_OBJECT
    // Runs for a while; the largest step from one sample to the next at a destination tells of clicks.
    static double run(engine::Runner& runner, int frames, double* step = nullptr) {
        std::vector<float> x(4096);
        float last = 0;
        bool first = true;
        for (int f = 0; f < frames; ++f) {
            runner.process({}, 64);
            for (std::size_t n; (n = runner.readProbe(0, x)) > 0;)
                for (std::size_t i = 0; i < n; ++i) {
                    if (step && !first)
                        *step = std::max(*step, static_cast<double>(std::abs(x[i] - last)));
                    last = x[i], first = false;
                }
        }
        return runner.meter({"out", 0}).peakDb;
    }
    static Program tone(double hz = 200) {
        Program p;
        p.blocks = {{"tone", "generator", "", {}, {{"hz", hz}, {"level", -20}}},
                    {"level", "level", "Trim"},
                    {"other", "source", "Other"},
                    {"out", "destination", "Out"}};
        p.connections = {{{"tone", 0}, {"level", 0}}, {{"level", 0}, {"out", 0}}};
        return p;
    }

  private slots:
    void restingToolsChangeNothing() {
        const auto& p = *hall().program;
        std::vector<Tool> tools;
        int n = 0;
        for (const auto& at : {engine::PortRef{"chair.eq", 0}, {"loop", 0}, {"hall", 2}})
            for (const auto kind : {Tool::Kind::mute, Tool::Kind::inject, Tool::Kind::bridge}) {
                Tool t{kind, at, {"delegate-1", 0}};
                t.number = ++n;
                tools.push_back(t);
            }
        const auto with = withTools(p, tools);
        QVERIFY(bool(with));
        for (const char* to : {"loop", "ceiling-1", "column-l"})
            for (const char* from : {"chair", "delegate-1", "far-end"})
                QVERIFY(std::abs(gainDb(*with, from, to) - gainDb(p, from, to)) < 1e-6);
    }
    void muteComesAndGoesWithoutAClick() {
        Tool mute{Tool::Kind::mute, {"level", 0}};
        engine::Runner runner(48000, {});
        QVERIFY(runner.load(*withTools(tone(), {})));
        runner.probe(0, engine::PortRef{"out", 0});
        double before = 0, during = 0;
        QVERIFY(run(runner, 200, &before) > -25);
        QVERIFY(runner.load(*withTools(tone(), {mute})));
        const auto s = switchesOf(mute)[0];
        QVERIFY(runner.set(s.block, s.param, s.acts));
        QVERIFY(run(runner, 6000, &during) < -80);
        QVERIFY(runner.set(s.block, s.param, s.rests));
        QVERIFY(run(runner, 400, &during) > -25);
        QVERIFY(runner.load(tone()));
        QVERIFY(run(runner, 200, &during) > -25);
        QVERIFY2(during < before * 1.3, qPrintable(QString("%1 beside %2").arg(during).arg(before)));
    }
    void injectedAndBridgedSoundArrives() {
        Program p = tone();
        p.blocks.change(0).values["run"] = 0; // silent
        auto pink = readSignal("pink -12");
        QVERIFY(bool(pink));
        pink->at = {"out", 0};
        engine::Runner runner(48000, {});
        const auto act = [&](const Tool& t) {
            auto with = withTools(p, {t});
            for (const auto& s : switchesOf(t))
                with->find(s.block)->values[s.param] = s.acts;
            return runner.load(*with) ? run(runner, 500) : -999.0;
        };
        QVERIFY(act(*pink) > -20);
        p.blocks.change(0).values["run"] = 1;
        p.connections = {{{"other", 0}, {"out", 0}}};
        Tool bridge{Tool::Kind::bridge, {"out", 0}, {"tone", 0}};
        bridge.levelDb = 0;
        QVERIFY(act(bridge) > -21);
    }
    void oneBandAlone() {
        Tool solo{Tool::Kind::solo, {"chair.eq", 0}};
        solo.hz = 1000, solo.octaves = 1;
        const auto& p = *hall().program;
        auto with = withTools(p, {solo});
        QVERIFY(with && std::abs(gainDb(*with, "chair", "loop", 100) - gainDb(p, "chair", "loop", 100)) < 1e-6);
        for (const auto& s : switchesOf(solo))
            with->find(s.block)->values[s.param] = s.acts;
        const auto change = [&](double hz) {
            return gainDb(*with, "chair", "column-l", hz) - gainDb(p, "chair", "column-l", hz);
        };
        QVERIFY(std::abs(change(1000)) < 2);
        QVERIFY(change(250) < -30 && change(4000) < -30);
    }
    void whatAnEqualiserIsHeardThrough() {
        const auto& p = *hall().program;
        const auto layout = engine::layOut(p);
        const std::vector<double> hz{100, 1000, 4000};
        const auto db = [](const dsp::Complex& v) { return 20 * std::log10(std::abs(v)); };
        const auto chain = heardResponse(layout, p, "chair.eq", Span::chain, hz, 48000);
        QVERIFY(bool(chain)); // from the source to behind its last bead
        QVERIFY(std::abs(db(chain->h[0]) - gainDb(p, "chair", "chair.eq", 100)) < 1e-6);
        const auto path = heardResponse(layout, p, "chair.eq", Span::path, hz, 48000);
        QVERIFY(bool(path));
        QCOMPARE(path->text, std::string("Chair to Ceiling zone 1"));
        QVERIFY(std::abs(db(path->h[1])) < 1e-9);
        for (std::size_t i = 0; i < hz.size(); ++i)
            QVERIFY(std::abs(db(path->h[i]) + path->levelDb - gainDb(p, "chair", "ceiling-1", hz[i])) < 1e-6);
        const auto back = heardResponse(layout, p, "loop.delay", Span::path, hz, 48000);
        QVERIFY(back && back->text.ends_with("to Hearing loop"));
        QVERIFY(heardResponse(layout, p, "hall", Span::block, hz, 48000));
        QVERIFY(!heardResponse(layout, p, "hall", Span::chain, hz, 48000));
    }
    void whatCannotBeIsRefused() {
        const auto& p = *hall().program;
        const Tool loop{Tool::Kind::bridge, {"chair.preamp", 0}, {"hall", 0}};
        const auto refused = withTools(p, {loop});
        QVERIFY(!refused && refused.error().message.find("hall") != std::string::npos);
        QVERIFY(!withTools(p, {{Tool::Kind::mute, {"nobody", 0}}}));
        QVERIFY(!withTools(p, {{Tool::Kind::bridge, {"loop", 0}, {"loop", 0}}})); // nothing leaves a destination
        QVERIFY(!fits(p, {Tool::Kind::mute, {"chair", 7}}));
    }
    void signalsAsTheyAreTyped() {
        QCOMPARE(readSignal("sine 1k5 -30")->hz, 1500.0);
        QCOMPARE(readSignal("sine 1k5 -30")->levelDb, -30.0);
        QCOMPARE(readSignal("sweep")->levelDb, -20.0);
        QCOMPARE(readSignal("file two words.flac -6")->signal, std::string("file two words.flac"));
        QCOMPARE(readSignal("file chair.flac")->levelDb, 0.0);
        for (const char* bad : {"", "soup", "file", "sine loud", "pink -999"})
            QVERIFY2(!readSignal(bad), bad);
        QCOMPARE(describe(*hall().program, {Tool::Kind::mute, {"chair.eq", 0}}),
                 std::string("Mute at Chair \u00b7 Equaliser"));
    }

    // ---- trace ----

    void arrivesAsItIsSet() {
        const auto t = trace(*hall().program, "ceiling-1");
        QCOMPARE(t.lostAt, -1);
        QCOMPARE(t.steps.front().at.block, std::string("ceiling-1"));
        QCOMPARE(t.steps.back().at.block, std::string("chair"));
    }
    void namesThePlaceAndTheReason_data() {
        QTest::addColumn<QString>("block");
        QTest::addColumn<QString>("param");
        QTest::addColumn<double>("value");
        QTest::addColumn<QString>("destination");
        QTest::addColumn<QString>("place");
        QTest::addColumn<QString>("reason");
        QTest::newRow("muted level") << "far-send.level"
                                     << "mute" << 1.0 << "far-send"
                                     << "far-send.level"
                                     << "muted";
        QTest::newRow("output") << "hall"
                                << "out.6.mute" << 1.0 << "loop"
                                << "hall"
                                << "Output 6 is muted";
        QTest::newRow("preamp") << "chair.preamp"
                                << "mute" << 1.0 << "column-l"
                                << ""
                                << "";
    }
    void namesThePlaceAndTheReason() {
        QFETCH(QString, block);
        QFETCH(QString, param);
        QFETCH(double, value);
        QFETCH(QString, destination);
        QFETCH(QString, place);
        QFETCH(QString, reason);
        Program p = *hall().program;
        p.find(block.toStdString())->values[param.toStdString()] = value;
        const auto t = trace(p, destination.toStdString());
        if (place.isEmpty()) { // one of many is muted: it is the first that is followed, and it is said
            QVERIFY(t.lostAt < 0 || t.steps[static_cast<std::size_t>(t.lostAt)].at.block == block.toStdString());
            return;
        }
        QVERIFY(t.lostAt >= 0);
        QCOMPARE(t.steps[static_cast<std::size_t>(t.lostAt)].at.block, place.toStdString());
        QVERIFY2(t.text().find(reason.toStdString()) != std::string::npos, t.text().c_str());
    }
    void noRouteNoThreadNoPort() {
        Program p = *hall().program;
        std::erase_if(p.find("hall")->values, [](const auto& v) { return v.first.ends_with(".6"); });
        auto t = trace(p, "loop");
        QCOMPARE(t.steps[static_cast<std::size_t>(t.lostAt)].at, (engine::PortRef{"hall", 5}));
        QVERIFY(t.text().find("No crossing") != std::string::npos);
        erase_if(p.connections, [](const auto& x) { return x.to.block == "ceiling-1.eq"; });
        t = trace(p, "ceiling-1");
        QCOMPARE(t.steps.back().at.block, std::string("ceiling-1.eq"));
        QVERIFY(t.text().find("no thread") != std::string::npos);
        p = tone();
        p.connections = {{{"other", 0}, {"out", 0}}};
        QVERIFY(trace(p, "out").text().find("No port") != std::string::npos);
        p.find("other")->kind = "of-tomorrow";
        QVERIFY(trace(p, "out").text().find("not known") != std::string::npos);
        QVERIFY(trace(p, "nobody").steps.empty());
        p.blocks.push_back({"a", "eq", ""});
        p.connections = {{{"a", 0}, {"a", 0}}, {{"a", 0}, {"out", 0}}}; // a loop ends
        QVERIFY(trace(p, "out").steps.size() <= 3);
    }
    void levelsFindWhatSettingsDoNot() { // a gate that nothing opens
        Project project = demo();
        auto& p = *project.devices.change(0).program;
        p.find("loop.level")->kind = "gate";
        p.find("loop.level")->values = {{"threshold", 0}, {"range", 80}, {"ratio", 20}};
        QCOMPARE(trace(p, "loop").lostAt, -1);
        const auto levels = levelsOf(project, project.devices[0], 3);
        QVERIFY(bool(levels));
        const auto t = trace(p, "loop", [&](const engine::PortRef& port) { return std::optional(levels->at(port)); });
        QVERIFY(t.lostAt >= 0);
        QCOMPARE(t.steps[static_cast<std::size_t>(t.lostAt)].at.block, std::string("loop.level"));
        QVERIFY2(t.text().find("gate is closed") != std::string::npos, t.text().c_str());
    }
    void aToolThatMutesIsNamed() {
        const auto t = trace(*hall().program, "ceiling-1", {}, {{Tool::Kind::mute, {"hall", 0}}});
        QVERIFY(t.lostAt >= 0);
        QCOMPARE(t.steps[static_cast<std::size_t>(t.lostAt)].at, (engine::PortRef{"hall", 0}));
        QVERIFY(t.text().find("tool") != std::string::npos);
    }
    void silenceAtTheSourceIsTheSource() {
        const auto& p = *hall().program;
        const auto t = trace(p, "loop", [](const engine::PortRef&) { return std::optional(-120.0); });
        QVERIFY(t.lostAt >= 0);
        QCOMPARE(t.lostAt, static_cast<int>(t.steps.size()) - 1);
        QVERIFY(t.text().find("Nothing comes in") != std::string::npos);
    }
};
LOOM_TEST(tst_tools, TestTools)
#include "tst_tools.moc"
