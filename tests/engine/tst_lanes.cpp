// Registers of any width give the same sound, and a lane's sound does not depend on what lies beside it.
#ifndef Q_MOC_RUN
#include "dsp/dispatch.h"
#include "engine/runner.h"
#endif
#include "test.h"

using namespace loom;
using namespace loom::engine;

class TestLanes : public QObject {
    Q_OBJECT
    static Program lanes(int count) { // noise through a chain of everything that runs side by side
        Program p;
        for (int l = 0; l < count; ++l) {
            const std::string id = "l" + std::to_string(l);
            p.blocks.push_back({id, "source", "", {}, {}, {{"port", "in 1"}}});
            std::string last = id;
            for (const char* kind : {"preamp", "highpass", "eq", "tone", "delay", "limiter", "lowpass"}) {
                Block b{id + "." + kind, kind, ""};
                if (b.kind == "eq")
                    b.values = {{"2.on", 1}, {"2.gain", 3.0 + l % 5}, {"6.on", 1}, {"6.gain", -7}};
                if (b.kind == "delay")
                    b.values = {{"time", 1.3 + l % 3}};
                p.blocks.push_back(b);
                p.connections.push_back({{last, 0}, {b.id, 0}});
                last = b.id;
            }
            p.blocks.push_back(
                {id + ".mix", "matrix", "", {{"inputs", 1}, {"outputs", 2}}, {{"1.1", -3}, {"1.2", -6}}});
            p.connections.push_back({{last, 0}, {id + ".mix", 0}});
        }
        return p;
    }
    static std::vector<float> run(const Program& p, const PortRef& at) {
        Runner r(48000, {});
        if (!r.load(p))
            return {};
        std::vector<float> in(maxFrame), all;
        const float* ins[] = {in.data()};
        unsigned seed = 5;
        for (int frame = 0; frame < 400; ++frame) {
            for (auto& x : in)
                x = static_cast<float>((seed = seed * 1664525u + 1013904223u) / 4294967296.0 - 0.5);
            if (frame == 100 && !r.set("l0.eq", "2.hz", 900)) // gliding and fading are part of it
                return {};
            if (frame == 150 && !r.set("l0.highpass", "slope", 5))
                return {};
            r.process({ins, nullptr}, frame % 7 ? maxFrame : 29);
            all.resize(all.size() + maxFrame);
            r.schedule()->read(r.schedule()->bufferOf(at), all.data() + all.size() - maxFrame, maxFrame);
        }
        return all;
    }
    static double differenceDb(const std::vector<float>& a, const std::vector<float>& b) {
        double noise = 0, power = 0;
        for (std::size_t i = 0; i < a.size(); ++i)
            noise += (a[i] - b[i]) * static_cast<double>(a[i] - b[i]), power += static_cast<double>(a[i]) * a[i];
        return dsp::dbFromPower(noise / power);
    }
  private slots:
    void cleanup() { dsp::useWidth(dsp::widest()); }
    void everyWidthSoundsTheSame() {
        dsp::useWidth(dsp::Width::any);
        const auto plain = run(lanes(3), {"l0.mix", 1});
        QVERIFY(plain.size() == 400 * maxFrame);
        for (const auto w : {dsp::Width::avx2, dsp::Width::avx512}) {
            if (static_cast<int>(w) > static_cast<int>(dsp::widest()))
                continue; // this machine cannot
            dsp::useWidth(w);
            const double db = differenceDb(plain, run(lanes(3), {"l0.mix", 1}));
            qInfo("%d bits against 128: %.0f dB", static_cast<int>(w) * 8, db);
            QVERIFY(db < -120);
        }
    }
    void neighboursAreNotHeard() {
        const auto alone = run(lanes(1), {"l0.mix", 0});
        for (const int count : {2, 7, 8, 9, 20})
            QVERIFY(run(lanes(count), {"l0.mix", 0}) == alone);
    }
    void lanesThatForkAndMeet() { // one source into two chains, of which one is longer, into one matrix
        Program p;
        p.blocks = {{"s", "source", "", {}, {}, {{"port", "in 1"}}},
                    {"a", "level", "", {}, {{"gain", -6}}},
                    {"b", "level", "", {}, {{"gain", -12}}},
                    {"b2", "level", "", {}, {{"gain", -6}}},
                    {"mix", "matrix", "", {{"inputs", 3}, {"outputs", 1}}, {{"1.1", 0}, {"2.1", 0}, {"3.1", 0}}}};
        p.connections = {{{"s", 0}, {"a", 0}},   {{"s", 0}, {"b", 0}},    {{"b", 0}, {"b2", 0}},
                         {{"a", 0}, {"mix", 0}}, {{"b2", 0}, {"mix", 1}}, {{"s", 0}, {"mix", 2}}};
        Runner r(48000, {});
        QVERIFY(bool(r.load(p)));
        std::vector<float> in(maxFrame, 0.25f), out(maxFrame);
        const float* ins[] = {in.data()};
        for (int i = 0; i < 3; ++i)
            r.process({ins, nullptr}, maxFrame);
        r.schedule()->read(r.schedule()->bufferOf({"mix", 0}), out.data(), maxFrame);
        const double want = 0.25 * (1 + dsp::gainFromDb(-6) + dsp::gainFromDb(-18));
        QVERIFY(std::abs(out[40] - want) < 1e-5);
    }
};
LOOM_TEST(tst_lanes, TestLanes)
#include "tst_lanes.moc"
