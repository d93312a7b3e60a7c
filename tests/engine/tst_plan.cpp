// Compiling, running and exchanging plans.
#ifndef Q_MOC_RUN // moc of Qt 6.4 stumbles over the concepts of newer standard headers
#include "dsp/fractional_delay.h"
#include "engine/block_kind.h"
#include "engine/demo_program.h"
#include "engine/latency.h"
#include "engine/path_response.h"
#include "engine/runner.h"
#include <thread>
#endif
#include "test.h"

using namespace loom;
using namespace loom::engine;

class TestPlan : public QObject {
    Q_OBJECT
    static std::vector<float> run(Runner& r, const PortRef& at, int frames) {
        std::vector<float> all;
        for (int f = 0; f < frames; ++f) {
            r.process({}, maxFrame);
            all.resize(all.size() + maxFrame);
            r.schedule()->read(r.schedule()->bufferOf(at), all.data() + all.size() - maxFrame, maxFrame);
        }
        return all;
    }
  private slots:
    void loopIsNamed() {
        Program p = test::twoLanes();
        p.connections.change(0) = {{"mix", 0}, {"a.highpass", 0}};
        const auto schedule = compile(p, 48000, {});
        QVERIFY(!schedule);
        const auto text = QString::fromStdString(schedule.error().message);
        QVERIFY2(text.contains("a.highpass → a.eq → mix → a.highpass") ||
                     text.contains("mix → a.highpass → a.eq → mix") || text.contains("a.eq → mix → a.highpass → a.eq"),
                 qPrintable(text));
    }
    void badThreadsAreNamed() {
        Program p = test::twoLanes();
        p.connections.push_back({{"a", 0}, {"mix", 0}});
        QVERIFY(QString::fromStdString(compile(p, 48000, {}).error().message).contains("two threads"));
        p = test::twoLanes();
        p.connections.push_back({{"a", 3}, {"mix", 1}});
        QVERIFY(!compile(p, 48000, {}));
        p = test::twoLanes();
        p.connections.push_back({{"ghost", 0}, {"mix", 1}});
        QVERIFY(QString::fromStdString(compile(p, 48000, {}).error().message).contains("ghost"));
        p = test::twoLanes();
        p.blocks.push_back(p.blocks[0]);
        QVERIFY(!compile(p, 48000, {}));
        QVERIFY(!compile(test::twoLanes(), -1, {}));
    }
    // Of all places from which one sound reaches a block over ways that are not equally long, the nearest is told,
    // whatever the order in which the blocks were put in.
    void meetingsTellTheNearestPlace() {
        for (const bool backwards : {false, true}) {
            Program p;
            p.blocks = {{"far", "source", ""},
                        {"near", "level", ""},
                        {"late", "limiter", ""},
                        {"sum", "sum", ""},
                        {"out", "destination", ""}};
            if (backwards)
                p.blocks.sort([&](const Block& a, const Block& b) { return a.id > b.id; }); // sum, out, near, late, far
            p.connections = {{{"far", 0}, {"near", 0}},
                             {{"near", 0}, {"late", 0}},
                             {{"late", 0}, {"sum", 1}},
                             {{"near", 0}, {"sum", 0}},
                             {{"sum", 0}, {"out", 0}}};
            const auto all = unevenMeetings(p, 48000);
            QCOMPARE(all.size(), std::size_t(1));
            QVERIFY(all[0].block == "sum" && all[0].sound == (PortRef{"near", 0}));
            const int own = latencies(p, 48000).at({"late", 0}).least;
            QVERIFY(own > 0);
            QCOMPARE(all[0].ports, (std::map<int, int>{{0, 0}, {1, own}}));
            p.find("late")->values["on"] = 0; // it delays nothing any more
            QVERIFY(unevenMeetings(p, 48000).empty());
        }
    }
    void unknownBlocksAreSilent() {
        Program p = test::twoLanes();
        p.find("a.eq")->kind = "of-tomorrow";
        Runner r(48000, {});
        QVERIFY(bool(r.load(p)));
        const auto x = run(r, {"mix", 0}, 20);
        QVERIFY(std::all_of(x.begin(), x.end(), [](float v) { return v == 0; }));
    }
    void untouchedLaneIsBitIdentical() {
        Runner one(48000, {}), two(48000, {});
        Program p = test::twoLanes();
        QVERIFY(one.load(p) && two.load(p));
        auto steady = run(one, {"b.level", 0}, 60);
        auto swapped = run(two, {"b.level", 0}, 20);
        Program q = p; // another equaliser on lane a, in the middle of the sound
        q.blocks.push_back({"a.new", "eq", ""});
        q.find("a.new")->values = {{"1.on", 1}, {"1.gain", 6}};
        q.connections.change(2) = {{"a.eq", 0}, {"a.new", 0}};
        q.connections.push_back({{"a.new", 0}, {"mix", 0}});
        QVERIFY(bool(two.load(q)));
        const auto rest = run(two, {"b.level", 0}, 40);
        swapped.insert(swapped.end(), rest.begin(), rest.end());
        QVERIFY(steady == swapped);
    }
    void failedLoadLeavesTheSound() {
        Runner r(48000, {});
        Program p = test::twoLanes();
        QVERIFY(bool(r.load(p)));
        p.connections.change(0) = {{"mix", 0}, {"a.highpass", 0}};
        QVERIFY(!r.load(p));
        for (int i = 0; i < 8; ++i)
            QVERIFY(r.process({}, 64));
        QVERIFY(r.meter({"b", 0}).peakDb > -10);
    }
    void metersReadLevels() {
        Runner r(48000, {});
        QVERIFY(bool(r.load(test::twoLanes())));
        run(r, {"a", 0}, 2000);
        QVERIFY(std::abs(r.meter({"a", 0}).peakDb - 0) < 0.1);
        QVERIFY(std::abs(r.meter({"a", 0}).rmsDb + 3.01) < 0.1);
        QVERIFY(std::abs(r.meter({"out-2", 0}).rmsDb + 9.01) < 0.1);
        QCOMPARE(r.meter({"nobody", 0}).peakDb, loom::dsp::silenceDb);
    }
    // More inputs and outputs than lie in one bundle: every output has its own sound, level and meter.
    void aWideMatrixIsWholeAndMetered() {
        constexpr int ins = 11, outs = 20;
        Program p;
        p.blocks.push_back({"mix", "matrix", "", {{"inputs", ins}, {"outputs", outs}}});
        for (int i = 0; i < ins; ++i) {
            const std::string id = "s" + std::to_string(i);
            p.blocks.push_back({id, "generator", "", {}, {{"level", -20.0 - i}, {"hz", 1000}}});
            p.connections.push_back({{id, 0}, {"mix", i}});
        }
        for (int o = 0; o < outs; ++o)
            p.blocks.change(0).values[std::to_string(o % ins + 1) + "." + std::to_string(o + 1)] = -o;
        Runner r(48000, {});
        QVERIFY(bool(r.load(p)));
        run(r, {"mix", 0}, 2000);
        for (int o = 0; o < outs; ++o) {
            const double peak = -20.0 - o % ins - o;
            const auto meter = r.meter({"mix", o});
            QVERIFY2(std::abs(meter.peakDb - peak) < 0.2 && std::abs(meter.rmsDb - peak + 3.01) < 0.2,
                     qPrintable(QString("output %1: %2 dB").arg(o + 1).arg(meter.peakDb)));
            const auto heard = run(r, {"mix", o}, 40);
            const float highest = *std::max_element(heard.begin(), heard.end());
            QVERIFY(std::abs(20 * std::log10(highest) - peak) < 0.2);
        }
    }
    void tapHearsAThread() {
        Runner r(48000, {});
        QVERIFY(bool(r.load(test::twoLanes())));
        r.probe(2, PortRef{"b", 0});
        const auto x = run(r, {"b", 0}, 30);
        std::vector<float> heard(x.size());
        QCOMPARE(r.readProbe(2, heard), heard.size());
        QVERIFY(heard == x);
    }
    void setNamesWhatIsNotThere() {
        Runner r(48000, {});
        QVERIFY(bool(r.load(test::twoLanes())));
        QVERIFY(!r.set("nobody", "gain", 0));
        QVERIFY(!r.set("b.level", "nothing", 0));
        QVERIFY(!r.set("b.level", "gain", NAN));
        QVERIFY(bool(r.set("b.level", "gain", 1e9))); // clamped to its range
    }
    void pathResponseSumsPaths() {
        Program p = test::twoLanes();
        p.find("mix")->values["1.1"] = -6;
        const auto h = pathResponse(p, {"a", 0}, {"out-1", 0}, {1000, 5000}, 48000);
        QVERIFY(bool(h));
        QVERIFY(std::abs(20 * std::log10(std::abs((*h)[1])) + 6) < 0.01);
        const auto none = pathResponse(p, {"a", 0}, {"out-2", 0}, {1000}, 48000);
        QVERIFY(none && std::abs((*none)[0]) == 0);
        QVERIFY(!pathResponse(p, {"a", 0}, {"ghost", 0}, {1000}, 48000));
    }
    void latencyOfEveryPathByImpulse() { // what is said is what an impulse needs, on paths that differ
        Program p;
        p.blocks = {{"s", "source", "", {}, {}, {{"port", "in 1"}}},
                    {"a", "limiter", ""},
                    {"f", "fir", ""},
                    {"mix", "matrix", "", {{"inputs", 2}, {"outputs", 2}}, {{"1.1", 0}, {"2.2", 0}}},
                    {"x", "limiter", ""},
                    {"out", "destination", "", {}, {}, {{"port", "out 1"}}}};
        p.connections = {{{"s", 0}, {"a", 0}},   {{"a", 0}, {"f", 0}},   {{"f", 0}, {"mix", 0}},
                         {{"s", 0}, {"mix", 1}}, {{"mix", 1}, {"x", 0}}, {{"mix", 0}, {"out", 0}}};
        const auto all = latencies(p, 48000);
        QCOMPARE(all.at({"f", 0}).most, 63 + 64);
        QCOMPARE(all.at({"mix", 0}).least, 0);
        QCOMPARE(all.at({"mix", 0}).most, 127);
        QCOMPARE(longestLatency(p, 48000), 127);
        for (const auto& [at, want] :
             {std::pair{PortRef{"f", 0}, 127}, {PortRef{"mix", 0}, 127}, {PortRef{"x", 0}, 63}}) {
            Runner r(48000, {});
            QVERIFY(bool(r.load(p)));
            std::vector<float> in(maxFrame), heard(maxFrame);
            const float* ins[] = {in.data()};
            int first = -1;
            for (int frame = 0; frame < 8; ++frame) {
                in[0] = frame == 0 ? 0.5f : 0.0f;
                r.process({ins, nullptr}, maxFrame);
                r.schedule()->read(r.schedule()->bufferOf(at), heard.data(), maxFrame);
                for (int i = 0; i < maxFrame && first < 0; ++i)
                    if (std::abs(heard[static_cast<std::size_t>(i)]) > 0.1f)
                        first = frame * maxFrame + i;
            }
            QCOMPARE(first, want);
        }
        p.connections.push_back({{"out-of", 0}, {"x", 0}});
        QVERIFY(latencies(p, 48000).empty());
    }
    void oneSoundOverTwoWaysIsFound() {
        const auto meet = [](const char* onTheWay, const char* crossing) {
            Program p;
            p.blocks = {{"s", "source", ""},
                        {"split", "splitter", "", {{"outputs", 2}}},
                        {"way", onTheWay, ""},
                        {"other", "source", ""},
                        {"slow", "limiter", ""},
                        {"mix", "matrix", "", {{"inputs", 3}, {"outputs", 1}}, {{"1.1", 0}, {"2.1", 0}, {"3.1", 0}}},
                        {"late", "matrix", "", {{"inputs", 2}, {"outputs", 1}}, {{"1.1", 0}, {crossing, 0}}}};
            p.connections = {{{"s", 0}, {"split", 0}},   {{"split", 0}, {"way", 0}},  {{"way", 0}, {"mix", 0}},
                             {{"split", 1}, {"mix", 1}}, {{"other", 0}, {"slow", 0}}, {{"slow", 0}, {"mix", 2}},
                             {{"mix", 0}, {"late", 0}},  {{"other", 0}, {"late", 1}}};
            return unevenMeetings(p, 48000);
        };
        auto found = meet("limiter", "1.1"); // the other source is late too, but nowhere against itself
        QCOMPARE(found.size(), 1u);
        QCOMPARE(found[0].block, std::string("mix"));
        QCOMPARE(found[0].sound.block, std::string("s"));
        QCOMPARE(found[0].ports, (std::map<int, int>{{0, 63}, {1, 0}}));
        found = meet("level", "1.1");
        QVERIFY(found.empty());
        found = meet("level", "2.1"); // now the other source meets itself behind the mix
        QCOMPARE(found.size(), 1u);
        QCOMPARE(found[0].block, std::string("late"));
        QCOMPARE(found[0].ports, (std::map<int, int>{{0, 63}, {1, 0}}));
    }
    void programInAnotherOrderKeepsItsKernels() {
        Program p = test::twoLanes();
        const auto first = compile(p, 48000, {});
        QVERIFY(bool(first));
        p.blocks = loom::List<Block>(p.blocks.rbegin(), p.blocks.rend());
        p.blocks.insert(p.blocks.begin() + 2, {"new", "level", ""});
        p.find("a.eq")->shape["bands"] = 12; // another shape is another kernel
        p.find("b.level")->values["gain"] = -3;
        const auto second = compile(p, 48000, {}, first->get());
        QVERIFY(bool(second));
        for (const auto& b : p.blocks)
            QCOMPARE((*second)->kernel(b.id) == (*first)->kernel(b.id), b.id != "new" && b.id != "a.eq");
        std::size_t walk = 0;
        QCOMPARE((*second)->numberOf("new", walk), 2);
        QCOMPARE((*second)->numberOf("nobody", walk), -1);
        QCOMPARE(walk, 3u);
    }
    void responseGoesThroughDynamicsAndTaps() {
        Program p;
        p.blocks = {{"s", "source", ""}, {"c", "compressor", ""}, {"f", "fir", ""}, {"out", "destination", ""}};
        p.blocks.change(2).texts["file"] = "x";
        p.connections = {{{"s", 0}, {"c", 0}}, {{"c", 0}, {"f", 0}}, {{"f", 0}, {"out", 0}}};
        const std::vector<double> hz{500, 12000};
        const auto plain = pathResponse(p, {"s", 0}, {"out", 0}, hz, 48000);
        QVERIFY(plain && std::abs(std::abs((*plain)[1]) - 1) < 1e-9);
        auto clip = std::make_shared<loom::dsp::AudioClip>();
        clip->rate = 48000, clip->channels = {{0.5f, 0.5f}}; // a mean of two: cos(w / 2)
        Resources resources;
        resources.clip = [&](const std::string&, double) { return clip; };
        const auto h = pathResponse(p, {"s", 0}, {"out", 0}, hz, 48000, resources);
        for (std::size_t i = 0; i < hz.size(); ++i)
            QVERIFY(std::abs(std::abs((*h)[i]) - std::cos(loom::dsp::pi * hz[i] / 48000)) < 1e-7);
    }
    void twoThreads() { // under TSan: edits, swaps, meters and taps while the sound runs
        Runner r(48000, {});
        Program p = test::twoLanes();
        QVERIFY(bool(r.load(p)));
        std::atomic<bool> stop{false};
        std::thread audio([&] {
            while (!stop)
                r.process({}, maxFrame);
        });
        std::vector<float> heard(4096);
        for (int i = 0; i < 300; ++i) {
            QVERIFY(bool(r.set("a.highpass", "corner", 50 + i)));
            r.meter({"mix", 0});
            r.probe(i % probeCount, PortRef{"mix", i % 2});
            r.readProbe(i % probeCount, heard);
            if (i % 10 == 0) {
                p.find("mix")->values["2.1"] = -(i % 40);
                p.find("a.eq")->shape["bands"] = 4 + i % 8;
                QVERIFY(bool(r.load(p)));
            }
            r.tend();
        }
        stop = true;
        audio.join();
    }
    void manyProgramsBetweenTwoFramesAreAllFreed() {
        Program p = test::twoLanes();
        Runner r(48000, {});
        QVERIFY(bool(r.load(p)));
        r.process({}, maxFrame);
        for (int i = 0; i < 600; ++i) {
            p.find("mix")->values["1.1"] = -(i % 60);
            QVERIFY(bool(r.load(p)));
        }
        QCOMPARE(r.retiring(), std::size_t(600));
        for (int frame = 0; frame < 4; ++frame) {
            r.process({}, maxFrame);
            r.tend();
        }
        QCOMPARE(r.retiring(), std::size_t(0));
        QCOMPARE(r.program().find("mix")->values.at("1.1"), -59.0);
    }
    // Values that are set together are heard together, however long it takes to set them.
    void whatIsSetTogetherIsHeardInOneFrame() {
        Program p;
        constexpr int n = 200;
        for (int i = 0; i < n; ++i) {
            const auto id = std::to_string(i);
            p.blocks.push_back({"m" + id, "mute", ""});
            p.connections.push_back({{i == 0 ? "in" : "m" + std::to_string(i - 1), 0}, {"m" + id, 0}});
        }
        p.blocks.push_back({"in", "source", "", {}, {}, {{"port", "in 1"}}});
        p.blocks.push_back({"level", "level", ""});
        p.blocks.push_back({"out", "destination", "", {}, {}, {{"port", "out 1"}}});
        p.connections.push_back({{"m" + std::to_string(n - 1), 0}, {"level", 0}});
        p.connections.push_back({{"level", 0}, {"out", 0}});
        Runner r(48000, {});
        QVERIFY(bool(r.load(p)));
        std::vector<float> in(maxFrame, 0.5f), out(maxFrame);
        const float* ins[] = {in.data()};
        float* outs[] = {out.data()};
        const auto settled = [&] {
            for (int i = 0; i < 400; ++i)
                r.process({ins, outs}, maxFrame);
            return out.back();
        };
        QVERIFY(std::abs(settled() - 0.5f) < 1e-4f);
        {
            const Runner::Together together(r);
            QVERIFY(bool(r.set("level", "gain", 6)));
            for (int i = 0; i < n / 2; ++i)
                QVERIFY(bool(r.set("m" + std::to_string(i), "muted", 1)));
            {
                const Runner::Together within(r); // the outermost counts
                QVERIFY(bool(r.set("m199", "muted", 1)));
            }
            r.tend();
            QVERIFY(std::abs(settled() - 0.5f) < 1e-4f); // nothing of it yet
            QVERIFY(bool(r.set("m199", "muted", 0)));
            for (int i = 0; i < n / 2; ++i)
                QVERIFY(bool(r.set("m" + std::to_string(i), "muted", 0)));
        }
        QVERIFY(std::abs(settled() - 0.5f * std::pow(10.0f, 6 / 20.0f)) < 1e-3f);
        QVERIFY(bool(r.set("level", "gain", 0))); // and alone again
        QVERIFY(std::abs(settled() - 0.5f) < 1e-4f);
        // More than the queue has room for goes in parts, and none is lost.
        {
            const Runner::Together together(r);
            for (std::size_t i = 0; i < Runner::mostTogether + 100; ++i)
                QVERIFY(bool(r.set("level", "gain", -static_cast<double>(i % 50))));
            QVERIFY(bool(r.set("level", "gain", -20)));
        }
        (void)settled();
        r.tend();
        QVERIFY(std::abs(settled() - 0.05f) < 1e-4f);
    }
    // Two ways whose delays differ by parts of a sample, both with fine steps.
    void fineDelaysGoInPartsOfASample() {
        for (const double rate : {44100.0, 48000.0, 96000.0})
            for (const double samples : {0.0, 0.25, 0.5, 7.7, 31.9, 40.5}) {
                Block b{"late", "delay", "", {}, {{"time", samples / rate * 1000}, {"fine", 1}}};
                Program p;
                p.blocks = {{"in", "source", ""}, b, {"out", "destination", ""}};
                p.blocks.change(0).texts["port"] = "in 1", p.blocks.change(2).texts["port"] = "out 1";
                p.connections = {{{"in", 0}, {"late", 0}}, {{"late", 0}, {"out", 0}}};
                QCOMPARE(latencies(p, rate).at({"late", 0}).most, loom::dsp::fineLatency);
                Runner r(rate, {});
                QVERIFY(bool(r.load(p)));
                std::vector<float> heard, in(maxFrame, 0.0f), out(maxFrame);
                const float* ins[] = {in.data()};
                float* outs[] = {out.data()};
                for (int frame = 0; frame < 4; ++frame) {
                    in[0] = frame == 1 ? 1.0f : 0.0f;
                    r.process({ins, outs}, maxFrame);
                    heard.insert(heard.end(), out.begin(), out.end());
                }
                for (double f = 0.01; f <= 0.4; f += 0.03) {
                    std::complex<double> h = 0;
                    for (std::size_t n = maxFrame; n < heard.size(); ++n)
                        h += static_cast<double>(heard[n]) *
                             std::polar(1.0, -2 * loom::dsp::pi * f * static_cast<double>(n - maxFrame));
                    const auto ideal = std::polar(1.0, -2 * loom::dsp::pi * f * (samples + loom::dsp::fineLatency));
                    const auto drawn = BlockView(b).response(0, 0, f * rate, rate);
                    const auto degrees = [](auto a, auto c) { return std::abs(std::arg(a / c)) * 180 / loom::dsp::pi; };
                    QVERIFY2(degrees(h, ideal) < 0.1, qPrintable(QString("%1 samples at %2").arg(samples).arg(f)));
                    QVERIFY(degrees(drawn, ideal) < 0.1 && degrees(h, drawn) < 0.1);
                    QVERIFY(std::abs(20 * std::log10(std::abs(h))) < 0.01);
                }
            }
    }
};
LOOM_TEST(tst_plan, TestPlan)
#include "tst_plan.moc"
