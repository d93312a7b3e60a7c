// Voicings at work: their curves through the engine, whom they reach, what protects what, findings, files.
#ifndef Q_MOC_RUN
#include "dsp/test_signals.h"
#include "engine/runner.h"
#include "file/project_json.h"
#include "file/store.h"
#include "findings/output_findings.h"
#include "model/history.h"
#include "models.h"
#include "program/program_edit.h"
#include "voicings/voicing_edit.h"
#include "voicings/voicing_fields.h"
#include "voicings/voicing_library.h"
#include <nlohmann/json.hpp>
#endif
#include "test.h"
#include <QFile>
#include <QTemporaryDir>
#include <cmath>
#include <cstring>
#include <numbers>

using namespace loom;
using namespace loom::project;

class TestVoicing : public QObject {
    Q_OBJECT
    QTemporaryDir home_;

    static std::string text(const QString& path) {
        QFile f(path);
        return f.open(QIODevice::ReadOnly) ? f.readAll().toStdString() : "";
    }
    static Voicing fromSheet(const char* file, const std::string& id) {
        auto sheet = loudspeaker::readSheet(text(QString(LOOM_SOURCE_DIR "/demo/sheets/") + file));
        for (auto& f : sheet.fields)
            if (!f.sure())
                loudspeaker::answer(f, 0);
        return voicingFrom(sheet, {}, id);
    }
    static Device device(const char* id, const char* model) {
        Device d{id, id, model, ""};
        d.models = test::models();
        d.place.placed = true;
        return d;
    }
    // Four X2 on a processing and an analogue amplifier, the latter behind a processor: low ways in pairs.
    static Project rig() {
        Project p;
        p.devices = {device("amp", "treadle-4"),  device("old", "treadle-2a"), device("heddle", "heddle-16"),
                     device("l1", "oakhaven-x2"), device("r1", "oakhaven-x2"), device("l2", "oakhaven-x2"),
                     device("r2", "oakhaven-x2")};
        auto& program = p.device("heddle")->program.emplace();
        for (const char* n : {"1", "2"}) {
            const std::string s(n);
            program.blocks.push_back({"in-" + s, "source", ""});
            program.blocks.changeBack().texts["port"] = "in " + s;
            program.blocks.push_back({"out-" + s, "destination", ""});
            program.blocks.changeBack().texts["port"] = "out " + s;
            program.connections.push_back({{"in-" + s, 0}, {"out-" + s, 0}});
        }
        p.voicings.push_back(fromSheet("oakhaven-x2.txt", "x2"));
        p = *voiced(p, {"l1", "r1", "l2", "r2"}, "x2");
        p = *hung(p, "amp", "out 1", {{{"l1", 0}, {"r1", 0}}});
        p = *hung(p, "amp", "out 2", {{{"l1", 1}, {"r1", 1}}});
        p = *hung(p, "old", "out 1", {{{"l2", 0}, {"r2", 0}}});
        p = *hung(p, "old", "out 2", {{{"l2", 1}, {"r2", 1}}});
        p = *fed(*fed(p, "old", "in 1", "heddle/out 1"), "old", "in 2", "heddle/out 2");
        Project now = p;
        History h(now);
        (void)h.run(editSpeakers(now, p, "Begin"));
        for (auto& [id, next] : voicedPrograms(now))
            now.device(id)->program = next;
        return now;
    }
    static bool has(const Project& p, const char* code) {
        for (const auto& f : checkSpeakers(p))
            if (f.id() == code)
                return true;
        return false;
    }
    static double value(const Project& p, const char* device, const char* block, const char* param) {
        const auto* b = p.device(device)->program->find(block);
        return b && b->values.count(param) ? b->values.at(param) : -1e9;
    }
    // Runs an edit and brings it to the project, or fails.
    static bool run(History& h, Project& p, Result<Project> then, const char* text = "Change") {
        if (!then)
            return false;
        auto edit = editSpeakers(p, std::move(*then), text);
        return edit && h.run(std::move(edit));
    }

  private slots:
    void initTestCase() { qputenv("XDG_DATA_HOME", home_.path().toUtf8()); }

    // -- curves --
    void drawnCurveMatchesTheScript() {
        const auto v = nlohmann::json::parse(text(LOOM_SOURCE_DIR "/tests/vectors/speakers.json"))["voicing"];
        Voicing x2 = fromSheet("oakhaven-x2.txt", "x2");
        // The script's two-way voicing has these bells only.
        QVERIFY(!setField(x2, 0, "bell.2", "") && !setField(x2, 1, "bell.1", "2.65 kHz -2.6 dB Q 1"));
        const std::vector<double> hz = v["hz"];
        Project p;
        for (int way = 0; way < 2; ++way) {
            const auto h = voicingResponse(p, x2, way, hz);
            const auto& wanted = v[way ? "high" : "low"];
            for (std::size_t i = 0; i < hz.size(); ++i) {
                const dsp::Complex w(wanted["re"][i].get<double>(), wanted["im"][i].get<double>());
                QVERIFY2(std::abs(h[i] - w) <= 1e-4 * std::max(std::abs(w), 1e-3),
                         qPrintable(QString("%1 Hz: %2 %3, wanted %4 %5")
                                        .arg(hz[i])
                                        .arg(h[i].real())
                                        .arg(h[i].imag())
                                        .arg(w.real())
                                        .arg(w.imag())));
            }
        }
        const auto curves = curvesOf(p, x2, hz); // even drivers at their sensitivities, summed as complex numbers
        for (std::size_t i = 0; i < hz.size(); ++i) {
            const dsp::Complex w(v["sum"]["re"][i].get<double>(), v["sum"]["im"][i].get<double>());
            QVERIFY(std::abs(curves.sum[i] - w) <= 1e-4 * std::abs(w) + 1e-6);
        }
    }
    void engineMatchesTheCurve() {
        Project p = rig();
        // An impulse through the amplifier's program, outputs 1 (low) and 2 (high).
        for (auto& v : p.voicings.change(0).ways)
            v.protect = false; // a limiter waits, and an impulse is a peak
        for (auto& [id, next] : voicedPrograms(p))
            p.device(id)->program = next;
        engine::Runner runner(48000, {});
        QVERIFY(bool(runner.load(*p.device("amp")->program)));
        const int length = 1 << 16;
        std::vector<std::vector<float>> heard(2);
        const auto ins = runner.schedule()->inputs(), outs = runner.schedule()->outputs();
        for (int n = 0; n < length; n += 64) {
            std::vector<std::array<float, 64>> in(ins.size()), out(outs.size());
            for (auto& a : in)
                a.fill(0), a[0] = n == 0 ? 0.5f : 0.0f;
            std::vector<const float*> from;
            std::vector<float*> to;
            for (auto& a : in)
                from.push_back(a.data());
            for (auto& a : out)
                to.push_back(a.data());
            QVERIFY(runner.process({from.data(), to.data()}, 64));
            for (int w = 0; w < 2; ++w)
                for (std::size_t o = 0; o < outs.size(); ++o)
                    if (outs[o] == "out " + std::to_string(w + 1))
                        heard[static_cast<std::size_t>(w)].insert(heard[static_cast<std::size_t>(w)].end(),
                                                                  out[o].begin(), out[o].end());
        }
        std::vector<double> hz;
        for (double f = 40; f < 18000; f *= 1.15)
            hz.push_back(f);
        double worst = 0;
        for (int w = 0; w < 2; ++w) {
            const auto drawn = voicingResponse(p, p.voicings[0], w, hz);
            for (std::size_t i = 0; i < hz.size(); ++i) {
                dsp::Complex h = 0;
                for (int n = 0; n < length; ++n)
                    h += 2.0 * heard[static_cast<std::size_t>(w)][static_cast<std::size_t>(n)] *
                         std::polar(1.0, -2 * std::numbers::pi * hz[i] * n / 48000);
                if (std::abs(drawn[i]) > 1e-4)
                    worst = std::max(worst, std::abs(20 * std::log10(std::abs(h) / std::abs(drawn[i]))));
            }
        }
        qInfo("engine against the drawn curve: %.5f dB at most", worst);
        QVERIFY(worst < 0.01);
    }
    void fieldsAsInSheets() {
        Voicing v = newVoicing("v", "V", 2);
        QVERIFY(!setField(v, 0, "highpass", "83.5 Hz BW18"));
        QCOMPARE(fieldsOf(v, 0)[1].text, std::string("83.5 Hz BW18"));
        QVERIFY(v.ways[0].chain[0].values.count("on") == 0 || v.ways[0].chain[0].values.at("on") == 1); // entered is on
        QVERIFY(setField(v, 0, "highpass", "18.5 BW18")->message.find("no unit") != std::string::npos);
        QVERIFY(setField(v, 0, "highpass", "blue") && setField(v, 0, "highpass", "5 Hz BW18") &&
                setField(v, 0, "highpass", "80 Hz LR18") && setField(v, 0, "ohms", "-8") &&
                setField(v, 0, "watts", "x"));
        QCOMPARE(fieldsOf(v, 0)[1].text, std::string("83.5 Hz BW18"));
        for (const auto& [typed, q] : {std::pair("804 Hz -2.6 dB Q 1.4", 1.4),
                                       {"804 Hz \u22122.6 dB 1 oct", std::sqrt(2.0)},
                                       {"804 Hz -2.6 dB width 402 Hz", 2.0}}) {
            QVERIFY2(!setField(v, 1, "bell.1", typed), typed);
            QVERIFY(std::abs(v.ways[1].chain[2].values.at("1.q") - q) < 1e-9);
        }
        QVERIFY(setField(v, 1, "bell.1", "804 Hz -2.6 dB 1.4")->message.find("Q or octaves") != std::string::npos);
        QVERIFY(!setField(v, 1, "bell.2", "high shelf 8 kHz +3 dB Q 0.7") &&
                v.ways[1].chain[2].values.at("2.kind") == 2);
        QVERIFY(!setField(v, 1, "bell.1", "") && !v.ways[1].chain[2].values.count("1.hz"));
        for (int way = -1; way < 2; ++way) // each field takes what it shows
            for (const auto& f : fieldsOf(v, way)) {
                Voicing again = v;
                const std::string shown = f.number() ? std::to_string(f.value) : f.text;
                if (f.id == "name" && shown.empty())
                    continue;
                const auto error = setField(again, way, f.id, shown);
                QVERIFY2(!error, error ? error->text().c_str() : "");
                QVERIFY2(fieldsOf(again, way).size() == fieldsOf(v, way).size(), f.id.c_str());
            }
    }

    // -- reach --
    void changeReachesAll() {
        Project p = rig();
        QVERIFY(checkSpeakers(p).empty() || !has(p, "voicing-apart"));
        QCOMPARE(value(p, "amp", "out-1.v-highpass", "corner"), 47.0);
        QCOMPARE(value(p, "heddle", "out-1.v-highpass", "corner"), 47.0); // before the analogue amplifier
        QVERIFY(!p.device("old")->program);
        QCOMPARE(reachOf(p, "x2").size(), std::size_t(4));
        History h(p);
        const auto before = p.devices;
        // From Weave: the bead of one lane is that of all.
        QVERIFY(bool(h.run(setValue(p, "heddle/out-1.v-highpass.corner", 70))));
        QCOMPARE(value(p, "amp", "out-1.v-highpass", "corner"), 70.0);
        QCOMPARE(value(p, "heddle", "out-1.v-highpass", "corner"), 70.0);
        QVERIFY(h.undoText().find("4 loudspeakers") != std::string::npos);
        QVERIFY(!h.run(setValue(p, "amp/out-1.v-limiter.peak", -3))); // follows from data
        h.endMerge();
        // A drag is one step.
        for (const double hz : {72.0, 74.0, 76.0})
            QVERIFY(bool(h.run(setValue(p, "heddle/out-1.v-highpass.corner", hz, true))));
        h.undo(), h.undo();
        QVERIFY(p.devices == before);
        h.redo();
        QCOMPARE(value(p, "amp", "out-1.v-highpass", "corner"), 70.0);
    }
    void ownCopy() {
        Project p = rig();
        History h(p);
        std::string made;
        QVERIFY(run(h, p, withOwnVoicing(p, "r2", &made)));
        QVERIFY(p.voicing(made) && p.device("r2")->voicing == made && reachOf(p, "x2").size() == 3);
        QVERIFY(has(p, "mixed-voicings")); // it hangs beside l2
        AmplifierOutput pair{{{"l2", 0}}};
        QVERIFY(run(h, p, hung(p, "old", "out 1", pair)));
        QVERIFY(has(p, "way-missing"));
        h.undo(), h.undo();
        QVERIFY(!p.voicing(made) && p.device("r2")->voicing == "x2");
    }
    void chainsStandBeforeTheOutput() {
        Project p = rig();
        const auto& program = *p.device("heddle")->program;
        // in-1 -> blocks of the voicing -> out-1, each once.
        std::string at = "out-1";
        std::vector<std::string> way;
        for (const auto* t = program.into({at, 0}); t; t = program.into({t->from.block, 0}))
            way.push_back(t->from.block);
        QCOMPARE(way.back(), std::string("in-1"));
        QCOMPARE(way.front(), std::string("out-1.v-limiter"));
        QVERIFY(way.size() == 7); // limiter, level, delay, eq, lowpass, highpass, in-1
        QVERIFY(engine::compile(program, 48000, {}));
        // Taken off the amplifier, the lane is as it was.
        History h(p);
        QVERIFY(run(h, p, voiced(p, {"l2", "r2"}, "")));
        QCOMPARE(p.device("heddle")->program->into({"out-1", 0})->from.block, std::string("in-1"));
        QVERIFY(run(h, p, withoutVoicing(p, "x2")));
        QCOMPARE(p.device("amp")->program->blocks.size(), std::size_t(8));
        h.undo(), h.undo();
        QVERIFY(p.device("heddle")->program->find("out-1.v-highpass"));
    }

    // -- protection --
    void limiterHoldsTheVoltage() {
        Project p = rig();
        const auto paths = outputPaths(p);
        for (const auto& path : paths) {
            if (path.amplifier->id != "old" || path.port != "out 1")
                continue;
            auto protection = protectionOf(path);
            QVERIFY(protection.has_value());
            const double full =
                std::sqrt(2.0) * loudspeaker::voltsOf(18) * std::pow(10, path.data->gainDb / 20); // V at a full sample
            // Bursts of tone (6.5 ms of 1 kHz every 200 ms) 12 dB above the limit, through the limiter as it lies
            // there.
            engine::Program one;
            one.blocks = {{"in", "source", ""},
                          *p.device("heddle")->program->find("out-1.v-limiter"),
                          {"out", "destination", ""}};
            one.blocks.change(0).texts["port"] = "in 1", one.blocks.change(2).texts["port"] = "out 1";
            const std::string id = one.blocks[1].id;
            one.connections = {{{"in", 0}, {id, 0}}, {{id, 0}, {"out", 0}}};
            const auto highest = [&](double hz, double level, bool bursts, double& rms) {
                engine::Runner runner(48000, {});
                (void)bool(runner.load(one));
                double most = 0, sum = 0;
                int counted = 0;
                const int seconds = bursts ? 2 : 40;
                for (int n = 0; n < seconds * 48000; n += 64) {
                    std::array<float, 64> in{}, out{};
                    for (int k = 0; k < 64; ++k) {
                        const int at = n + k;
                        const bool on = !bursts || at % 9600 < 312;
                        in[static_cast<std::size_t>(k)] =
                            on ? static_cast<float>(level * std::sin(2 * std::numbers::pi * hz * at / 48000)) : 0.0f;
                    }
                    const float* from[] = {in.data()};
                    float* to[] = {out.data()};
                    runner.process({from, to}, 64);
                    for (const float v : out) {
                        most = std::max(most, std::abs(static_cast<double>(v)));
                        if (n > (seconds - 1) * 48000)
                            sum += v * v, ++counted;
                    }
                }
                rms = std::sqrt(sum / std::max(1, counted));
                return most * full;
            };
            double rms = 0;
            const double limit = std::pow(10, protection->peak.dbfs / 20);
            const double peak = highest(1000, 4 * limit, true, rms);
            qInfo("peak limit %.2f V, bursts come to %.2f V", protection->peak.volts, peak);
            QVERIFY(std::abs(20 * std::log10(peak / protection->peak.volts)) < 0.2);
            // Long tone between both limits: heat is held.
            const double thermal = std::pow(10, protection->thermal.dbfs / 20);
            (void)highest(500, std::min(0.98 * limit, 1.25 * std::sqrt(2.0) * thermal), false, rms);
            qInfo("thermal limit %.2f V, a long tone comes to %.2f V", protection->thermal.volts, rms * full);
            QVERIFY(std::abs(20 * std::log10(rms * full / protection->thermal.volts)) < 0.2);
        }
    }
    void limitsFollowData() {
        Project p = rig();
        History h(p);
        const double before = value(p, "amp", "out-1.v-limiter", "rms");
        Voicing v = *p.voicing("x2");
        QVERIFY(!setField(v, 0, "watts", "70")); // a quarter of 280 W: 6.02 dB lower
        QVERIFY(run(h, p, withVoicing(p, v)));
        QVERIFY(std::abs(value(p, "amp", "out-1.v-limiter", "rms") - (before - 6.0206)) < 1e-3);
        QVERIFY(!setField(v, 0, "thermalMargin", "3"));
        QVERIFY(run(h, p, withVoicing(p, v)));
        QVERIFY(std::abs(value(p, "amp", "out-1.v-limiter", "rms") - (before - 9.0206)) < 1e-3);
        const auto path = outputPaths(p).at(0);
        QVERIFY(protectionOf(path)->thermal.reason.find("3.0 dB of margin") != std::string::npos);
    }

    // -- findings: each provoked and cured --
    void findings() {
        Project p = rig();
        const auto settled = [](Project q) { // as an edit would leave it
            for (auto& [id, program] : voicedPrograms(q))
                q.device(id)->program = program;
            return q;
        };
        for (const auto& f : checkSpeakers(p))
            QVERIFY2(f.severity() == Severity::note, (f.id() + ": " + f.reason).c_str());
        Project bad = p;
        bad.device("old")->outputs["out 1"].loads.clear();
        QVERIFY(has(settled(bad), "no-load") && has(settled(bad), "way-missing"));
        QVERIFY(!has(p, "no-load"));
        bad = p; // four in parallel: 1.55 ohms
        bad.device("old")->outputs["out 1"].loads = {{"l2", 0}, {"r2", 0}, {"l1", 0}, {"r1", 0}};
        QVERIFY(has(settled(bad), "low-impedance"));
        bad.device("old")->outputs["out 1"].wiring = Wiring::series;
        QVERIFY(!has(settled(bad), "low-impedance"));
        bad = p;
        for (auto& w : bad.voicings.change(0).ways)
            w.protect = false;
        QVERIFY(has(settled(bad), "unprotected") && !has(p, "unprotected"));
        bad = p;
        bad.voicings.change(0).ways[0].rmsWatts = 0;
        QVERIFY(has(settled(bad), "power-unknown"));
        bad = p; // a line with taps above what the output gives
        bad.devices.push_back(device("c1", "bobbin-c6")), bad.devices.push_back(device("c2", "bobbin-c6"));
        bad.voicings.push_back(newVoicing("c6", "C6", 1));
        bad.voicings.changeBack().ways[0].rmsWatts = 30;
        bad = *voiced(bad, {"c1", "c2"}, "c6");
        bad = *hung(bad, "amp", "out 3", {{{"c1", 0, 200}, {"c2", 0, 200}}, Wiring::line100});
        QVERIFY(has(settled(bad), "taps-over") && has(settled(bad), "tap-too-high"));
        bad.device("amp")->outputs["out 3"].loads[0].tapWatts = bad.device("amp")->outputs["out 3"].loads[1].tapWatts =
            15;
        QVERIFY(!has(settled(bad), "taps-over") && !has(settled(bad), "tap-too-high"));
        bad.device("amp")->outputs["out 3"].loads[0].tapWatts = 0;
        QVERIFY(has(settled(bad), "no-tap"));
        bad = p;
        bad.device("old")->outputs["out 1"].wiring = Wiring::line100;
        QVERIFY(has(settled(bad), "no-line")); // an amplifier without lines
        bad = p;
        bad.device("old")->feeds.clear();
        QVERIFY(has(settled(bad), "runs-nowhere"));
        bad = p;
        bad.device("l1")->voicing.clear(), bad.device("r1")->voicing.clear();
        QVERIFY(has(settled(bad), "no-voicing"));
        bad = p; // taken out in Weave
        bad.device("heddle")->program = *removeBlock(*p.device("heddle")->program, "out-1.v-highpass");
        QVERIFY(has(bad, "voicing-apart") && !has(settled(bad), "voicing-apart"));
        bad = p;
        erase_if(bad.devices, [](const Device& d) { return d.id == "l1"; });
        QVERIFY(has(settled(bad), "load-gone"));
        // Overload needs a room with a target.
        QVERIFY(checkHeadroom(p, {}).empty());
        Project room = p;
        room.buildings.push_back({"b", "B"});
        Room r;
        r.id = "hall", r.name = "Hall";
        room.buildings.change(0).rooms = {r};
        room.device("l1")->room = room.device("r1")->room = "hall";
        QVERIFY(checkHeadroom(room, {{"hall", 10}}).empty());
        const auto weak = checkHeadroom(room, {{"hall", 28}});
        QVERIFY(!weak.empty() && weak[0].id() == "overload");
    }
    void figuresOfOutputs() {
        const auto all = outputFigures(rig(), {});
        QCOMPARE(all.size(), std::size_t(4)); // two of each amplifier; nothing comes to the others
        const auto& f = *std::find_if(all.begin(), all.end(),
                                      [](const auto& o) { return o.amplifier == "amp" && o.port == "out 1"; });
        QVERIFY(std::abs(f.load.nominal - 4) < 1e-9 && std::abs(f.load.minimum - 2.85) < 1e-9);
        QVERIFY(std::abs(f.cableOhms - 2 * 10 / 58.0 / 2.5) < 1e-9); // 10 m of 2.5 mm2
        QVERIFY(std::abs(f.lossDb - 20 * std::log10((4 + f.cableOhms) / 4)) < 1e-9 && f.limited &&
                std::abs(f.driverWatts - 560) < 1e-9);
        QVERIFY(f.damping > 20 && f.amperes > 5);
    }

    // -- alignment and fit --
    void alignmentAndFit() {
        Project p;
        for (const char* name : {"oakhaven-x2-low.txt", "oakhaven-x2-high.txt", "bobbin-12.txt"}) {
            const auto bytes = text(QString(LOOM_SOURCE_DIR "/demo/responses/") + name);
            p.assets[name] = std::vector<char>(bytes.begin(), bytes.end());
        }
        Voicing v = fromSheet("oakhaven-x2.txt", "x2");
        v.ways[0].response = "oakhaven-x2-low.txt", v.ways[1].response = "oakhaven-x2-high.txt";
        const auto a = withAlignment(p, v);
        QVERIFY(a && a->found.size() == 1);
        const auto meanNear = [&](const Voicing& one) {
            const auto c = curvesOf(p, one, curveFrequencies());
            double sum = 0;
            int n = 0;
            for (std::size_t i = 0; i < c.hz.size(); ++i)
                if (c.hz[i] > 280 && c.hz[i] < 660)
                    sum += 20 * std::log10(std::abs(c.sum[i])), ++n;
            return sum / n;
        };
        Voicing worse = v;
        QVERIFY(!setField(worse, 1, "delay", "1.1"));
        QVERIFY(meanNear(a->voicing) > meanNear(worse) + 1);
        QVERIFY(meanNear(a->voicing) >= meanNear(v) - 0.05);
        QVERIFY(!withAlignment(p, newVoicing("one", "One", 1)));
        Voicing column = newVoicing("c", "C", 1);
        column.ways[0].response = "bobbin-12.txt";
        const auto f = withFit(p, column, 150, 12000, 8);
        QVERIFY(f && f->fit.after < 1.0 && f->fit.after < f->fit.before);
        QVERIFY(!withFit(p, column, 100, 120, 8) && !withFit(p, column, 10, 12000, 8));
        // With a target of its own.
        const std::string tilt = "100 3\n1000 0\n10000 -3\n";
        p.assets["tilt.txt"] = std::vector<char>(tilt.begin(), tilt.end());
        column.target = "tilt.txt";
        const auto t = withFit(p, column, 150, 10000, 8);
        QVERIFY(t && t->fit.after < 1.0);
        const auto c = curvesOf(p, t->voicing, {200, 5000});
        QVERIFY(20 * std::log10(std::abs(c.sum[0]) / std::abs(c.sum[1])) > 2.5);
        v.ways[0].response = "gone.txt";
        QVERIFY(!curvesOf(p, v, {100}).notes.empty());
    }

    void impedanceCurve() {
        Project p = rig();
        const auto curve = [](const char* t) {
            return loudspeaker::readCurve(t, "z.txt", loudspeaker::CurveUse::impedance)->curve;
        };
        loudspeaker::ResponseFile below;
        below.hz = {100, 200};
        below.db = {8, -1};
        below.hasPhase = false;
        QVERIFY(!withImpedance(p, "x2", 0, "z.txt", below) &&
                !withImpedance(p, "x2", 7, "z.txt", curve("100 20\n300 4\n")));
        const auto then = withImpedance(p, "x2", 0, "z.txt", curve("20 40\n60 9\n200 5.5\n1000 14\n"));
        // As a response, and as the target; an impulse response becomes a text.
        const auto heard = withResponse(*then, "x2", 0, "low.wav", curve("20 40\n60 9\n"));
        QVERIFY(heard && heard->voicings[0].ways[0].response == "low.txt" && heard->assets.count("low.txt"));
        QVERIFY(withResponse(*then, "x2", -1, "goal.frd", below)->voicings[0].target == "goal.frd");
        QVERIFY(!withResponse(*then, "x2", 9, "x", below) && !withResponse(*then, "none", 0, "x", below));
        QVERIFY(then && then->voicings[0].ways[0].minimumOhms == 5.5 && then->assets.count("z.txt"));
        for (const auto& f : outputFigures(*then, {}))
            if (f.amplifier == "amp" && f.port == "out 1")
                QVERIFY(std::abs(f.load.minimum - 2.75) < 1e-9);
        const auto back = projectFromJson(toJson(*then), test::models());
        QVERIFY(back && back->voicings[0].ways[0].impedance == "z.txt");
        QVERIFY(readVoicings(voicingText(*then, {"x2"}), "z")->files.count("z.txt"));
    }
    // Each channel of a pair link is a thread of its own.
    void pairLinks() {
        Project p = rig();
        p.devices.push_back(device("small", "heddle-8"));
        auto& program = *p.device("amp")->program;
        program.blocks.changeIf(
            [](const auto& b) {
                return b.texts.count("port") && (b.texts.at("port") == "in 3" || b.texts.at("port") == "in 4");
            },
            [](auto& b) { b.texts["port"] = b.texts.at("port") == "in 3" ? "pair 1" : "pair 2"; });
        QVERIFY(!fed(p, "amp", "pair 3", "small/pair 1") && !fed(p, "amp", "pair 1", "small/pair 9"));
        p = *fed(p, "amp", "pair 2", "small/pair 2");
        const auto paths = outputPaths(p);
        const auto path = [&](const char* port) {
            return std::find_if(paths.begin(), paths.end(),
                                [&](const auto& o) { return o.amplifier->id == "amp" && o.port == port; });
        };
        QVERIFY(path("out 4") != paths.end() && path("out 4")->driven && path("out 4")->input == "pair 2");
        QVERIFY(path("out 3") == paths.end()); // the other channel brings nothing
        QVERIFY(has(p, "no-load"));
    }
    void firOfOneWay() {
        Project p = rig();
        const std::string taps = "0 0 0.5 0 0 0.25\n";
        const std::vector<char> bytes(taps.begin(), taps.end());
        History h(p);
        const double late = value(p, "amp", "out-1.v-delay", "time");
        QVERIFY(!withTaps(p, "x2", 1, "t.txt", {'x'}) && !withTaps(p, "x2", 5, "t.txt", bytes));
        auto then = withTaps(p, "x2", 1, "t.txt", bytes);
        QVERIFY(bool(then));
        p.assets = then->assets;
        QVERIFY(run(h, p, *then));
        QVERIFY(p.device("amp")->program->find("out-2.v-fir"));
        // The other way waits as long as the filter works in pieces.
        QVERIFY(value(p, "amp", "out-1.v-delay", "time") > late + 0.5);
        const auto curve = voicingResponse(p, p.voicings[0], 1, {20, 6000});
        Project bare = p;
        QVERIFY(bool(then = withTaps(bare, "x2", 1, "", {})));
        const auto plain = voicingResponse(*then, then->voicings[0], 1, {20, 6000});
        QVERIFY(std::abs(std::abs(curve[0] / plain[0]) - 0.75) < 1e-3); // 0.5 + 0.25 at low frequencies
        const auto back = projectFromJson(toJson(p), test::models());
        QVERIFY(back && back->voicings[0].ways == p.voicings[0].ways);
        const auto file = readVoicings(voicingText(p, {"x2"}), "with taps");
        QVERIFY(file && file->files.count("t.txt"));
    }

    // -- files --
    void survivesProjectFiles() {
        Project p = rig();
        p.voicings.change(0).taps = {30, 15, 7.5};
        p.voicings.change(0).extra["tomorrow"] = "{\"a\": 1}";
        const auto back = projectFromJson(toJson(p), test::models());
        QVERIFY2(bool(back), back ? "" : back.error().text().c_str());
        QVERIFY(back->voicings[0].ways == p.voicings[0].ways && back->voicings[0].taps == p.voicings[0].taps);
        QVERIFY(back->voicings[0].extra.count("tomorrow"));
        QVERIFY(back->device("amp")->outputs == p.device("amp")->outputs &&
                back->device("old")->feeds == p.device("old")->feeds);
        QVERIFY(voicedPrograms(*back).empty());
        const auto refused = [&](const char* pointer, const nlohmann::json& value, const char* place) {
            auto j = toJson(p);
            j[nlohmann::json::json_pointer(pointer)] = value;
            const auto read = projectFromJson(j, test::models());
            return !read && read.error().place.find(place) != std::string::npos;
        };
        QVERIFY(refused("/voicings/0/ways/0/ohms", -8, "/voicings/0/ways/0/ohms"));
        QVERIFY(refused("/voicings/0/ways/0/watts", -1, "watts") &&
                refused("/voicings/0/ways", nlohmann::json::array(), "ways"));
        QVERIFY(refused("/voicings/0/taps", {0}, "taps/0") &&
                refused("/devices/0/outputs/out 1/wiring", "star", "wiring"));
        QVERIFY(refused("/voicings/0/ways/0/driver", "paper", "driver"));
    }
    void threeScopes() {
        Project p = rig();
        p.assets["r.txt"] = std::vector<char>{'1', '0', ' ', '1', '\n', '2', '0', ' ', '1'};
        p.voicings.change(0).ways[0].response = "r.txt";
        // A channel's voicing.
        const auto one = readVoicings(voicingText(p, {"x2"}), "one");
        QVERIFY2(bool(one), one ? "" : one.error().text().c_str());
        Project other;
        other.devices = {device("amp", "treadle-4"), device("a", "oakhaven-x2"), device("b", "oakhaven-x2")};
        std::vector<std::string> made;
        const auto with = withVoicings(other, *one, &made);
        QVERIFY(with.voicing(made.at(0))->ways == p.voicings[0].ways && with.assets.count("r.txt"));
        std::vector<std::string> again;
        QVERIFY(withVoicings(with, *one, &again).voicings.size() == 1 && again == made); // the same is there already
        // A whole amplifier: what hangs there gets it.
        auto setups = readSetups(setupText(p, {"amp"}), "amp");
        QVERIFY2(bool(setups), setups ? "" : setups.error().text().c_str());
        other = *hung(*hung(other, "amp", "out 1", {{{"a", 0}}}), "amp", "out 2", {{{"a", 1}}});
        const auto recalled = withSetup(other, "amp", *setups, 0);
        QVERIFY2(bool(recalled), recalled ? "" : recalled.error().text().c_str());
        QVERIFY(recalled->device("a")->voicing == "x2" && !voicedPrograms(*recalled).empty());
        QVERIFY(!withSetup(other, "a", *setups, 0));
        // A set of many, by name.
        setups = readSetups(setupText(p, {"amp", "old"}), "set");
        QVERIFY(setups && setups->setups.size() == 2);
        std::vector<std::string> left;
        const auto all = withSetups(other, *setups, &left);
        QVERIFY(all && left == std::vector<std::string>{"old"} && all->device("a")->voicing == "x2");
        // Any voicing fits any channel that has the processing.
        auto moved = setups->setups[1];
        setups->setups = {moved};
        QVERIFY(bool(withSetup(other, "amp", *setups, 0)));
        // Bad files are refused with their place.
        for (const char* bad : {"", "[]", "{}", R"({"format": "nimble-loom-voicings", "version": 1})",
                                R"({"format": "nimble-loom-voicings", "version": 9, "voicings": []})"})
            QVERIFY(!readVoicings(bad, "bad") && !readSetups(bad, "bad"));
        auto j = nlohmann::json::parse(setupText(p, {"amp"}));
        j["setups"] = std::vector<nlohmann::json>(mostSetups + 1, j["setups"][0]);
        QVERIFY(!readSetups(j.dump(), "many"));
        j["setups"] = nlohmann::json::array({nlohmann::json(j["setups"][0])}); // braces alone differ by compiler
        j["setups"][0]["voicings"]["out 1"] = "nobody";
        QVERIFY(!readSetups(j.dump(), "lost"));
        // The library.
        QVERIFY(bool(keepVoicing(p, "x2", false)) && !keepVoicing(p, "x2", false) && bool(keepVoicing(p, "x2", true)));
        const auto kept = voicingLibrary();
        QVERIFY(kept.size() == 1 && kept[0].name == "Oakhaven X2" && kept[0].file.files.count("r.txt"));
    }
};

LOOM_TEST(tst_voicing, TestVoicing)
#include "tst_voicing.moc"
