// Every declared block: responses against SciPy, sound against response, and behaviour under ill treatment.
#include "dsp/edge.h"
#include "engine/path_response.h"
#include "engine/solo.h"
#include "test.h"
#include <fstream>
#include <nlohmann/json.hpp>

using namespace loom::engine;
using loom::dsp::Complex;

namespace {

struct Bench { // one block with its buffers
    explicit Bench(const Block& b, double rate) : solo(b, rate), view(solo.view()) {
        in.resize(view.inputs(), std::vector<float>(maxFrame));
        out.resize(view.outputs(), std::vector<float>(maxFrame + 8, 7.0f)); // eight guard samples
        for (auto& v : in)
            ins.push_back(v.data());
        for (auto& v : out)
            outs.push_back(v.data());
    }
    void run(int n = maxFrame) { solo.run(ins, outs, n); }
    Solo solo;
    const BlockView& view;
    std::vector<std::vector<float>> in, out;
    std::vector<const float*> ins;
    std::vector<float*> outs;
};

} // namespace

class TestBlocks : public QObject {
    Q_OBJECT
  private slots:
    void responsesMatchSciPy() {
        std::ifstream file(LOOM_SOURCE_DIR "/tests/vectors/filters.json");
        const auto rows = nlohmann::json::parse(file);
        QVERIFY(rows.size() > 500);
        double worstDb = 0, worstDeg = 0;
        for (const auto& row : rows) {
            Block b{"b", row["kind"], ""};
            b.values = row["settings"].get<std::map<std::string, double>>();
            b.shape = row.value("shape", Shape());
            Resources resources;
            if (row.contains("taps")) {
                b.texts["file"] = "taps.txt";
                auto clip = std::make_shared<loom::dsp::AudioClip>();
                clip->rate = row["rate"], clip->channels = {row["taps"].get<std::vector<float>>()};
                resources.clip = [clip](const std::string&, double) { return clip; };
            }
            const int out = row.value("out", 0);
            const auto have = blockResponse(b, b.kind == "crossover" ? 0 : out, out,
                                            row["hz"].get<std::vector<double>>(), row["rate"], resources);
            for (std::size_t i = 0; i < row["hz"].size(); ++i) {
                const Complex want(row["re"][i], row["im"][i]);
                if (std::abs(want) < 1e-6)
                    continue; // -120 dB: phase means nothing there
                worstDb = std::max(worstDb, std::abs(20 * std::log10(std::abs(have[i] / want))));
                worstDeg = std::max(worstDeg, std::abs(std::arg(have[i] / want)) * 180 / loom::dsp::pi);
            }
        }
        qInfo("worst deviation from SciPy: %.2e dB, %.2e degrees over %zu responses", worstDb, worstDeg, rows.size());
        QVERIFY(worstDb < 0.01);
        QVERIFY(worstDeg < 0.1);
    }

    void soundMatchesResponse() { // an impulse through the kernel, transformed, is the response that is drawn
        for (const double rate : {44100.0, 48000.0, 96000.0})
            for (const auto& kind : blockKinds()) {
                Block b{"b", kind.id, ""};
                if (!kind.response)
                    continue;
                if (kind.id == "eq")
                    b.values = {{"3.on", 1}, {"3.gain", 6}, {"7.on", 1}, {"7.gain", -4}};
                if (kind.id == "delay")
                    b.values = {{"time", 3.3}};
                if (kind.id == "matrix")
                    b.values = {{"1.1", -6}};
                if (kind.id == "preamp" || kind.id == "level")
                    b.values = {{"gain", 4}, {"polarity", 1}};
                Bench bench(b, rate);
                std::vector<float> h;
                for (int frame = 0; frame < 600; ++frame) {
                    bench.in[0][0] = frame == 0 ? 1.0f : 0.0f;
                    bench.run();
                    h.insert(h.end(), bench.out[0].begin(), bench.out[0].begin() + maxFrame);
                }
                for (const double hz : {100.0, 1000.0, 7000.0, 15000.0}) {
                    Complex sum = 0;
                    for (std::size_t i = 0; i < h.size(); ++i)
                        sum += static_cast<double>(h[i]) *
                               std::polar(1.0, -2 * loom::dsp::pi * hz / rate * static_cast<double>(i));
                    const Complex want = bench.view.response(0, 0, hz, rate);
                    QVERIFY2(std::abs(sum - want) < 2e-5 * std::max(1.0, std::abs(want)),
                             (kind.id + " at " + std::to_string(hz)).c_str());
                }
            }
    }

    void chainWithinMinus110OfDoublePrecision() {
        Block b{"b", "highpass", ""};
        b.values = {{"corner", 40}, {"slope", 7}};
        Block e{"e", "eq", ""};
        e.values = {{"1.on", 1}, {"1.gain", 9}, {"1.hz", 30}, {"4.on", 1}, {"4.gain", -12}, {"8.on", 1}, {"8.gain", 6}};
        Bench one(b, 48000), two(e, 48000);
        // The reference: the same designs, run section by section in double precision throughout.
        auto edge =
            loom::dsp::designEdge(loom::dsp::EdgeShape::butterworth, loom::dsp::EdgeSide::highPass, 8, 40, 48000);
        std::vector<loom::dsp::Section> sections(edge.sections.begin(),
                                                 edge.sections.begin() + static_cast<long>(edge.count));
        using loom::dsp::BellKind;
        for (const auto& [hz, gain] : {std::pair{30.0, 9.0}, {500.0, -12.0}, {8000.0, 6.0}})
            sections.push_back(loom::dsp::designBand(BellKind::bell, hz, gain, 1.41, 48000));
        std::vector<loom::dsp::SectionState> state(sections.size());
        unsigned seed = 1;
        double noise = 0, power = 0;
        for (int frame = 0; frame < 1500; ++frame) {
            for (auto& x : one.in[0])
                x = static_cast<float>((seed = seed * 1664525u + 1013904223u) / 4294967296.0 - 0.5);
            one.run();
            std::copy_n(one.out[0].begin(), maxFrame, two.in[0].begin());
            two.run();
            for (int i = 0; i < maxFrame; ++i) {
                double y = one.in[0][i];
                for (std::size_t s = 0; s < sections.size(); ++s)
                    y = state[s].step(sections[s], y);
                noise += (two.out[0][i] - y) * (two.out[0][i] - y), power += y * y;
            }
        }
        const double db = 10 * std::log10(noise / power);
        qInfo("difference from double precision: %.1f dB", db);
        QVERIFY(db < -110);
    }

    void illTreatment() {
        for (const double rate : {44100.0, 48000.0, 96000.0})
            for (const auto& kind : blockKinds())
                for (const bool high : {false, true}) {
                    Block b{"b", kind.id, ""};
                    for (const auto& s : kind.shape) // another count, of channels or what there is
                        b.shape[s.id] = high ? std::min(s.max, s.min + 2) : s.min;
                    const BlockView plain(b);
                    for (const auto& s : plain.table->specs())
                        b.values[s.id] = high ? s.max : s.min;
                    Bench bench(b, rate);
                    for (const float x : {1.0f, -1.0f, 1e-40f, NAN, INFINITY, 0.0f}) {
                        for (auto& in : bench.in)
                            std::fill(in.begin(), in.end(), x);
                        bench.run();
                    }
                    for (int frame = 0; frame < 2000; ++frame) // longer than the longest delay line
                        bench.run(1 + frame % maxFrame);
                    for (int frame = 0; frame < 1600; ++frame)
                        bench.run();
                    for (const auto& out : bench.out) {
                        for (int i = 0; i < maxFrame; ++i)
                            QVERIFY2(std::isfinite(out[i]), kind.id.c_str());
                        for (int i = maxFrame; i < maxFrame + 8; ++i)
                            QCOMPARE(out[i], 7.0f);
                    }
                }
    }

    void declarationsAreComplete() {
        for (const auto& k : blockKinds()) {
            QVERIFY2(!k.label.empty() && !k.purpose.empty() && k.kernel && k.cost && k.inputs && k.outputs && k.neutral,
                     k.id.c_str());
            const BlockView v(Block{"b", k.id, ""});
            QVERIFY(k.cost(v.shape, 48000).work > 0);
            for (const auto& s : v.table->specs()) {
                QVERIFY2(s.min < s.max && s.def >= s.min && s.def <= s.max, (k.id + "." + s.id).c_str());
                QVERIFY(s.unit != Unit::choice || s.choices.size() == static_cast<std::size_t>(s.max) + 1);
            }
            if (k.glyph == Glyph::number)
                QVERIFY2(v.table->indexOf(k.glyphParam) >= 0, k.id.c_str());
        }
    }
    void entryOfAValueSwitchesOn() {
        Block b{"b", "eq", ""};
        b.values["on"] = 0;
        enterValue(b, "2.gain", 3);
        QVERIFY(b.values.at("2.on") == 1 && !b.values.count("on"));
        enterValue(b, "2.on", 0);
        QVERIFY(!b.values.count("2.on"));
    }
};
LOOM_TEST(tst_blocks, TestBlocks)
#include "tst_blocks.moc"
