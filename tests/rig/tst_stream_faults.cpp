// What goes wrong between the devices of a rig: packets lost, late, in another order; clocks that run apart, a leader
// that goes; links that are cut, on the network and on a ring.
#ifndef Q_MOC_RUN
#include "patch/ways.h"
#include "rig/air.h"
#include "stream_bench.h"
#endif
#include "test.h"

using namespace loom;
using namespace loom::test;
using rig::ClockState;

class TestStreamFaults : public QObject {
    Q_OBJECT

    // Plays a tone of half of full scale on the first channel, and gives what the first input of a device hears.
    static std::vector<float> hearTone(StreamBench& n, const char* device, const char* port, int blocks) {
        std::vector<float> heard;
        for (int b = 0; b < blocks; ++b) {
            std::vector<float> block(rig::soundBlock);
            for (std::size_t i = 0; i < block.size(); ++i, ++toneAt_)
                block[i] = static_cast<float>(
                    0.5 * std::sin(2 * 3.14159265358979 * 997 * static_cast<double>(toneAt_) / 48000));
            for (int c = 1; c <= 8; ++c)
                n.play("a", "net " + std::to_string(c), block);
            n.net.step();
            const auto now = n.heard(device, port);
            heard.insert(heard.end(), now.begin(), now.end());
        }
        return heard;
    }
    static inline std::uint64_t toneAt_ = 0;
    static stream::PacketReader::Counts countsOf(const StreamBench& n, const char* device) {
        for (const auto& s : n.net.states())
            if (s.device == device)
                return s.counts;
        return {};
    }
    static void fault(StreamBench& n, const char* device, const std::function<void(rig::NetFaults&)>& how) {
        auto f = n.sides.at(device)->faults();
        how(f);
        n.sides.at(device)->setFaults(f);
    }
    // Greatest step between neighbours, beside that of the tone itself (0.065).
    static float stepIn(const std::vector<float>& sound, std::size_t from) {
        float most = 0;
        for (std::size_t i = from + 1; i < sound.size(); ++i)
            most = std::max(most, std::abs(sound[i] - sound[i - 1]));
        return most;
    }

    struct Took {
        int took = 0, said = 0; // samples: as measured, as planned (without converters, which the rig has not)
    };
    static Took impulse(double packetMs, double delayMs, bool limiters) {
        project::Project p;
        p.devices = {netDevice("a", "heddle-16"), netDevice("b", "heddle-8")};
        project::Stream s;
        s.id = s.name = "mix", s.ports = {"net 3"}, s.packetMs = packetMs;
        p.device("a")->streams = {s};
        p.device("b")->receivers = {{"mix", {"net 7"}, {"a/mix"}, 0, delayMs}};
        const auto through = [limiters](const char* in, const char* out) {
            engine::Program program;
            engine::Block from, middle, to;
            from.id = "from", from.kind = "source", from.texts["port"] = in;
            middle.id = "middle", middle.kind = limiters ? "limiter" : "level";
            to.id = "to", to.kind = "destination", to.texts["port"] = out;
            program.blocks = {from, middle, to};
            program.connections = {{{"from", 0}, {"middle", 0}}, {{"middle", 0}, {"to", 0}}};
            return program;
        };
        p.device("a")->program = through("in 1", "net 3");
        p.device("b")->program = through("net 7", "out 2");
        const auto patched = project::patchedOf(p);
        const auto wired = project::wiredOf(p, patched);
        const auto way = project::SoundWays(p, patched, wired).between("a/in 1", "b/out 2");
        Took t;
        double ms = way->mostMs;
        for (const auto& step : way->steps)
            if (step.kind == project::WayStep::Kind::converter)
                ms -= step.ms;
        t.said = static_cast<int>(std::lround(ms * 48));
        rig::Air air;
        air.lay(p);
        // What the programs read and write, each with a cable of its own at the analogue ends.
        const auto in = std::make_shared<engine::Cable>(), out = std::make_shared<engine::Cable>();
        std::vector<std::unique_ptr<engine::Runner>> runners;
        for (const char* id : {"a", "b"}) {
            auto r = air.joined({}, id);
            r.arriving = [of = r.arriving, in](const std::string& port) { return port == "in 1" ? in : of(port); };
            r.leaving = [of = r.leaving, out](const std::string& port) { return port == "out 2" ? out : of(port); };
            runners.push_back(std::make_unique<engine::Runner>(48000, r));
            if (!runners.back()->load(*std::as_const(p).device(id)->program))
                return {};
            air.side(id)->setAddress(*id == 'a' ? "127.20.9.1" : "127.20.9.2");
        }
        const int blocks = 42, hit = 20 * rig::soundBlock;
        for (int b = 0; b < blocks; ++b) {
            std::vector<float> block(rig::soundBlock);
            if (b * rig::soundBlock == hit)
                block[0] = 0.25f;
            in->write(block.data(), rig::soundBlock);
            for (auto& r : runners)
                for (int f = 0; f < rig::soundBlock; f += 64)
                    r->process({}, 64);
            air.step();
        }
        const auto end = out->written(), kept = std::min<std::uint64_t>(end, engine::Cable::length);
        std::vector<float> last(kept);
        out->copy(end - kept, last.data(), kept);
        const auto peak =
            std::max_element(last.begin(), last.end(), [](float x, float y) { return std::abs(x) < std::abs(y); });
        if (std::abs(*peak) < 0.2f)
            return {};
        t.took = static_cast<int>(end - kept) + static_cast<int>(peak - last.begin()) - hit;
        return t;
    }

  private slots:
    void packetsAreLost() {
        StreamBench n(three());
        (void)hearTone(n, "b", "net 1", 20);
        fault(n, "b", [](auto& f) { f.loss = 0.01; });
        const auto sound = hearTone(n, "b", "net 1", 400);
        const auto b = countsOf(n, "b"), c = countsOf(n, "c");
        QVERIFY2(b.lost > 20 && b.lost < 80, std::to_string(b.lost).c_str()); // of some 4,270
        QVERIFY(c.lost == 0 && b.late == 0);
        QVERIFY2(stepIn(sound, 4000) < 0.075f, std::to_string(stepIn(sound, 4000)).c_str()); // no click
        fault(n, "b", [](auto& f) { f.loss = 0; });
        fault(n, "a", [](auto& f) { f.loss = 0.5; }); // where they leave: all miss them
        (void)hearTone(n, "b", "net 1", 50);
        QVERIFY(countsOf(n, "b").lost > b.lost + 100 && countsOf(n, "c").lost > 100);
    }
    void packetsComeLateOrInAnotherOrder() {
        auto p = three();
        p.device("b")->receivers[0].delayMs = 5;
        p.device("c")->receivers[0].delayMs = 20;
        StreamBench n(p);
        (void)hearTone(n, "b", "net 1", 20);
        for (const char* id : {"b", "c"})
            fault(n, id, [](auto& f) { f.reorder = 0.2; });
        (void)hearTone(n, "b", "net 1", 100);
        QVERIFY(countsOf(n, "b").lost == 0 && countsOf(n, "b").late == 0 && countsOf(n, "b").taken > 900);
        for (const char* id : {"b", "c"})
            fault(n, id, [](auto& f) { f.reorder = 0, f.jitterMs = 8; });
        (void)hearTone(n, "b", "net 1", 200);
        // A packet may be 4 ms late for the first: half of them are later. The second holds 19 ms.
        const auto b = countsOf(n, "b"), c = countsOf(n, "c");
        QVERIFY2(b.late > 600 && b.late < 1500, std::to_string(b.late).c_str());
        QVERIFY(c.late == 0 && c.lost == 0);
    }
    // All follow the leader; one that does not slips, and its streams come late in the end.
    void clocksRunApart() {
        StreamBench n(three());
        (void)hearTone(n, "b", "net 1", 20);
        QCOMPARE(n.sides["a"]->clock().how, ClockState::How::leads);
        QVERIFY(n.sides["b"]->clock().how == ClockState::How::follows && n.sides["b"]->clock().leader == "a");
        fault(n, "b", [](auto& f) { f.free = true, f.driftPpm = 400; });
        (void)hearTone(n, "b", "net 1", 100);
        auto b = n.sides["b"]->clock();
        QCOMPARE(b.how, ClockState::How::free);
        // 51,200 samples at 400 ppm more than the leader's own crystal, which is within 30.
        QVERIFY2(b.aheadSamples > 51200 * 370e-6 && b.aheadSamples < 51200 * 430e-6,
                 std::to_string(b.aheadSamples).c_str());
        QVERIFY(countsOf(n, "b").late == 0); // what it holds back is enough for that
        (void)hearTone(n, "b", "net 1", 800);
        QVERIFY2(countsOf(n, "b").late > 50 && countsOf(n, "c").late == 0,
                 std::to_string(countsOf(n, "b").late).c_str());
        // It follows again, and all is well.
        fault(n, "b", [](auto& f) { f.free = false; });
        (void)hearTone(n, "b", "net 1", 1000);
        QVERIFY(std::abs(n.sides["b"]->clock().aheadSamples) < 1);
        const auto before = countsOf(n, "b");
        (void)hearTone(n, "b", "net 1", 50);
        QVERIFY(countsOf(n, "b").late == before.late && countsOf(n, "b").lost == before.lost);
    }
    void aClockIsSetWrong() {
        StreamBench n(three());
        (void)hearTone(n, "b", "net 1", 20);
        fault(n, "b", [](auto& f) { f.free = true, f.driftPpm = 0, f.aheadMs = 10; });
        (void)hearTone(n, "b", "net 1", 30);
        QVERIFY(std::abs(n.sides["b"]->clock().aheadSamples - 480) < 2);
        QVERIFY(countsOf(n, "b").late > 100);
        fault(n, "b", [](auto& f) { f.free = false; });
        (void)hearTone(n, "b", "net 1", 1000);
        QVERIFY(std::abs(n.sides["b"]->clock().aheadSamples) < 1);
    }
    // The leader goes: the next one leads from where it was, and nobody hears it.
    void theLeaderGoes() {
        auto p = three();
        p.devices.push_back(netDevice("lead", "heddle-16"));
        p.device("lead")->clockPriority = 1;
        StreamBench n(p);
        (void)hearTone(n, "b", "net 1", 20);
        QVERIFY(n.sides["lead"]->clock().how == ClockState::How::leads && n.sides["a"]->clock().leader == "lead");
        const auto before = countsOf(n, "b");
        n.sides["lead"]->plugged = false;
        const auto sound = hearTone(n, "b", "net 1", 200);
        QVERIFY(n.sides["a"]->clock().how == ClockState::How::leads && n.sides["b"]->clock().leader == "a");
        QCOMPARE(n.sides["lead"]->clock().how, ClockState::How::none);
        const auto after = countsOf(n, "b");
        QVERIFY(after.late == before.late && after.lost == before.lost && after.again == before.again);
        QVERIFY(stepIn(sound, 0) < 0.066f);
        n.sides["lead"]->plugged = true; // and back
        (void)hearTone(n, "b", "net 1", 10);
        QCOMPARE(n.sides["lead"]->clock().how, ClockState::How::leads);
    }
    // Cut links: what has another way takes it, the rest is silent until it is mended.
    void aLinkIsCut() {
        auto p = three();
        p.devices.push_back(netDevice("s1", "sley-24"));
        p.devices.push_back(netDevice("s2", "sley-24"));
        const auto lay = [&](const char* id, const char* from, const char* to) {
            project::Wire w;
            w.id = id, w.from = from, w.to = to;
            p.wires.push_back(w);
        };
        lay("wa", "a/lan 1", "s1/lan 1");
        lay("wb", "b/lan 1", "s2/lan 1");
        lay("wc", "c/lan 1", "s1/lan 2");
        lay("w1", "s1/lan 11", "s2/lan 11");
        lay("w2", "s1/lan 12", "s2/lan 12");
        StreamBench n(p);
        const auto sounds = [&](const char* device, const char* port) {
            const auto s = hearTone(n, device, port, 40);
            float most = 0;
            for (std::size_t i = s.size() - 2000; i < s.size(); ++i)
                most = std::max(most, std::abs(s[i]));
            return most > 0.4f;
        };
        QVERIFY(sounds("b", "net 1"));
        n.net.cut({"w1"});
        QVERIFY(sounds("b", "net 1")); // the other way
        n.net.cut({"w1", "w2"});
        QVERIFY(!sounds("b", "net 1") && n.sides["b"]->heard().at("net 1") == "none");
        QVERIFY(sounds("c", "net 9"));
        n.net.cut({});
        QVERIFY(sounds("b", "net 1") && n.sides["b"]->heard().at("net 1") == "open");
        n.sides["s2"]->plugged = false; // a switch without power
        QVERIFY(!sounds("b", "net 1") && sounds("c", "net 9"));
        n.sides["s2"]->plugged = true;
        QVERIFY(sounds("b", "net 1"));
    }
    // A ring carries sample for sample, the same delay whichever way; it closes over the other side.
    void aRingIsCut() {
        project::Project p;
        p.devices = {netDevice("a", "heddle-16"), netDevice("b", "heddle-8"), netDevice("c", "treadle-4")};
        project::Stream s;
        s.id = s.name = "mix", s.ports = {"ring 1", "ring 2"}, s.levelDb = -6.0206;
        p.device("a")->streams = {s};
        p.device("c")->receivers = {{"mix", {"ring 1", "ring 2"}, {"a/mix"}}};
        const auto lay = [&](const char* id, const char* from, const char* to) {
            project::Wire w;
            w.id = id, w.from = from, w.to = to;
            p.wires.push_back(w);
        };
        lay("w1", "a/ring b", "b/ring a");
        lay("w2", "b/ring b", "c/ring a");
        lay("w3", "c/ring b", "a/ring a");
        StreamBench n(p);
        int at = 0;
        std::vector<float> played, heard;
        const auto run = [&](int blocks) {
            played.clear();
            heard.clear();
            for (int b = 0; b < blocks; ++b) {
                std::vector<float> block(rig::soundBlock);
                for (auto& v : block)
                    v = sampleOf(1, at++);
                n.play("a", "ring 1", block);
                n.play("a", "ring 2", block);
                n.net.step();
                const auto now = n.heard("c", "ring 2");
                played.insert(played.end(), block.begin(), block.end());
                heard.insert(heard.end(), now.begin(), now.end());
            }
        };
        const auto late = [&] { // samples; -1: it is not that sound
            for (std::size_t d = 0; d < 3000; ++d) {
                bool same = true;
                for (std::size_t i = 4000; i < 4500 && same; ++i)
                    same = std::abs(heard[i] - played[i - d] * 0.5f) < 1e-5f;
                if (same)
                    return static_cast<int>(d);
            }
            return -1;
        };
        run(20);
        const auto patched = project::patchedOf(p);
        const auto wired = project::wiredOf(p, patched);
        const double ms = project::delayOf(p, patched, wired, wired.deliveries[0]).total();
        QCOMPARE(late(), rig::soundBlock + static_cast<int>(std::lround(ms * 48)));
        QVERIFY(n.sides["a"]->levels(rig::SoundSide::Way::leaves).count("ring 1") &&
                n.sides["c"]->levels(rig::SoundSide::Way::comes).count("ring 2"));
        const int before = late();
        n.net.cut({"w2"});
        run(20);
        QCOMPARE(late(), before); // nobody hears it
        n.net.cut({"w2", "w3"});
        run(20);
        QVERIFY(late() < 0 && std::abs(heard.back()) == 0);
        QCOMPARE(n.sides["c"]->heard().at("ring 1"), std::string("none"));
        n.net.cut({});
        run(20);
        QCOMPARE(late(), before);
        n.sides["b"]->powered = false; // who is off opens the ring; the other side is left
        run(20);
        QCOMPARE(late(), before);
        // What a receiver is told on the ring holds at once, as on the network.
        auto told = project::DeviceSound{{}, p.device("c")->receivers};
        told.receivers[0].muted = true;
        n.sides["c"]->tell(told);
        run(20);
        QVERIFY(std::abs(heard.back()) == 0);
    }
    void levelsOfPorts() {
        StreamBench n(three());
        (void)hearTone(n, "b", "net 1", 40);
        const auto sent = n.sides["a"]->levels(rig::SoundSide::Way::leaves),
                   came = n.sides["b"]->levels(rig::SoundSide::Way::comes);
        QVERIFY2(std::abs(sent.at("net 1") + 6) < 0.2 && std::abs(came.at("net 1") + 6) < 0.2,
                 std::to_string(sent.at("net 1")).c_str());
        QVERIFY(!came.count("net 20"));
        n.sides["a"]->quiet = true; // falls by 20 dB in 1.7 s
        for (int i = 0; i < 160; ++i)
            n.net.step();
        const double fallen = n.sides["b"]->levels(rig::SoundSide::Way::comes).at("net 1");
        QVERIFY2(std::abs(fallen + 26) < 1, std::to_string(fallen).c_str());
        for (int i = 0; i < 2000; ++i)
            n.net.step();
        QVERIFY(n.sides["b"]->levels(rig::SoundSide::Way::comes).empty());
    }
    // An impulse through two processors and the network takes what Patch says, to the sample, but for the cables that
    // the rig has between its threads: those take as long whatever is planned.
    void impulseThroughTheRig() {
        const auto plain = impulse(1, 0, false), short1 = impulse(0.125, 0, false), held = impulse(1, 9.5, false),
                   late = impulse(1, 0, true);
        QVERIFY(plain.said > 90 && short1.said != plain.said && held.said > plain.said + 300 && late.said > plain.said);
        const int cables = plain.took - plain.said;
        QVERIFY2(cables > 0 && cables % 64 == 0, QByteArray::number(cables));
        for (const auto& one : {short1, held, late})
            QCOMPARE(one.took - cables, one.said);
        qInfo("plain %d, short packets %d, 9.5 ms %d, limiters %d samples; cables of the rig %d", plain.said,
              short1.said, held.said, late.said, cables);
    }
};

LOOM_TEST(tst_stream_faults, TestStreamFaults)
#include "tst_stream_faults.moc"
