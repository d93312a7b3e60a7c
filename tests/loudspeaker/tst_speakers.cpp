// Loads, cables, limits, sheets, response files, bells and delays: against an independent script and by hand.
#ifndef Q_MOC_RUN
#include "dsp/edge.h"
#include "loudspeaker/fit.h"
#include "loudspeaker/load.h"
#include "loudspeaker/protection.h"
#include "loudspeaker/response_file.h"
#include "loudspeaker/sheet.h"
#include <nlohmann/json.hpp>
#endif
#include "test.h"
#include <QFile>
#include <cmath>
#include <random>

using namespace loom;
using namespace loom::loudspeaker;
using nlohmann::json;

class TestSpeakers : public QObject {
    Q_OBJECT
    json vectors_;
    static std::string text(const QString& path) {
        QFile f(path);
        return f.open(QIODevice::ReadOnly) ? f.readAll().toStdString() : "";
    }
    static std::string demo(const char* name) { return text(QString(LOOM_SOURCE_DIR "/demo/") + name); }
    static bool near(double a, double b) { return std::abs(a - b) <= 1e-6 * std::max(1e-6, std::abs(b)); }
    static const SheetField* the(const Sheet& s, SheetKind kind, int way, int n = 0) {
        for (const auto& f : s.fields)
            if (f.kind == kind && f.way == way && n-- == 0)
                return &f;
        return nullptr;
    }

  private slots:
    void initTestCase() { vectors_ = json::parse(text(LOOM_SOURCE_DIR "/tests/vectors/speakers.json")); }

    void cablesMatchTheScript() {
        for (const auto& v : vectors_["runs"]) {
            const Cable cable{v["metres"], v["mm2"], v["celsius"]};
            QVERIFY(near(resistanceOf(cable), v["resistance"]));
            const auto run = runOf(cable, v["load"], v["volts"], v["source"]);
            QVERIFY(near(run.amperes, v["amperes"]) && near(run.atLoad, v["atLoad"]) && near(run.watts, v["watts"]));
            QVERIFY(near(run.lossDb, v["lossDb"]) && near(run.damping, v["damping"]));
        }
    }
    void loadsMatchTheScript() {
        for (const auto& v : vectors_["loads"]) {
            std::vector<Impedance> all;
            for (const auto& z : v["each"])
                all.push_back({z[0], z[1]});
            const auto p = parallel(all), s = series(all);
            QVERIFY(near(p.nominal, v["parallel"][0]) && near(p.minimum, v["parallel"][1]));
            QVERIFY(near(s.nominal, v["series"][0]) && near(s.minimum, v["series"][1]));
        }
        QVERIFY(near(lineImpedance(100, 50), 200) && near(dbuOf(voltsOf(4)), 4) && near(voltsOf(0), 0.77459667));
    }
    void limitsMatchTheScript() {
        for (const auto& v : vectors_["limits"]) {
            DriverPower driver{v["ohms"], v["rms"], v["peak"]};
            Drive drive;
            drive.fullScaleDbu = v["full"], drive.gainDb = v["gain"], drive.partOfVolts = v["part"];
            const auto p = protect(driver, drive, {v["peakMargin"], v["thermalMargin"]});
            QVERIFY(near(p.peak.volts, v["peakVolts"]) && near(p.thermal.volts, v["rmsVolts"]));
            QVERIFY(near(p.peak.dbfs, v["peakDbfs"]) && near(p.thermal.dbfs, v["rmsDbfs"]));
            QVERIFY(near(p.peak.dbu, v["peakDbu"]) && near(p.thermal.dbu, v["rmsDbu"]));
            QVERIFY(near(p.peak.watts, v["peakWatts"]) && !p.peak.reason.empty());
        }
        DriverPower horn{8, 60, 240, DriverKind::compression, 44, 1200};
        const auto p = protect(horn, {}, {});
        QVERIFY(near(p.seconds, 0.88) && p.releaseMs == 10);
        horn.kind = DriverKind::cone;
        QVERIFY(near(protect(horn, {}, {}).seconds, 1.76));
        Drive weak;
        weak.maxVolts = 20;
        QVERIFY(protect(horn, weak, {}).clipsFirst && !protect(horn, {}, {}).clipsFirst);
    }

    // -- sheets --
    void sheetOfTwoWays() {
        const auto s = readSheet(demo("sheets/oakhaven-x2.txt"));
        QCOMPARE(s.ways, (std::vector<std::string>{"Low", "High"}));
        QCOMPARE(the(s, SheetKind::name, 0)->text, std::string("Oakhaven X2"));
        const auto* high = the(s, SheetKind::highPass, 1);
        QVERIFY(high && high->value == 47 && high->shape == 0 && high->slope == 24);
        const auto* low = the(s, SheetKind::lowPass, 1);
        QVERIFY(low && low->value == 430 && low->shape == 1 && low->slope == 12); // "LPF LR12 @ 0.43k"
        QVERIFY(the(s, SheetKind::highPass, 2)->value == 430);                    // "LR12 @ 0.43k" in the upper way
        const auto* bell = the(s, SheetKind::bell, 1);
        QVERIFY(bell->value == 205 && bell->second == -2.2 && bell->q == 1.6); // a real minus sign
        QVERIFY(near(the(s, SheetKind::bell, 1, 1)->q, 1 / (2 * std::sinh(std::log(2) / 2 * 1.1))));
        QVERIFY(near(the(s, SheetKind::bell, 2)->q, 1 / (2 * std::sinh(std::log(2) / 2 * 1.4))));
        QVERIFY(the(s, SheetKind::delay, 1)->value == 0.26 && the(s, SheetKind::polarity, 2)->value == 1);
        QVERIFY(the(s, SheetKind::rmsPower, 1)->value == 280 && the(s, SheetKind::peakPower, 1)->value == 1120);
        QVERIFY(the(s, SheetKind::impedance, 2)->value == 16 && the(s, SheetKind::minimumImpedance, 2)->value == 12.5);
        QVERIFY(the(s, SheetKind::driver, 2)->value == 0 && the(s, SheetKind::coil, 2)->value == 38);
        QVERIFY(the(s, SheetKind::coverage, 0)->value == 100 && the(s, SheetKind::coverage, 0)->second == 50);
        QVERIFY(the(s, SheetKind::highShelf, 2)->second == 2.5 && the(s, SheetKind::sensitivity, 1)->value == 95);
        for (const auto& f : s.fields) {
            QVERIFY2(f.sure(), f.question.c_str());
            QVERIFY(f.to > f.from && f.to <= s.lines[f.line].size());
        }
        QCOMPARE(s.unread.size(), std::size_t(1)); // the heading is marked, not dropped
    }
    void sheetAsTableAsks() {
        auto s = readSheet(demo("sheets/wickerwork-m2.txt"));
        const auto* f = the(s, SheetKind::highPass, 1);
        QVERIFY(f && f->sure() && f->value == 70 && f->slope == 24); // "70": no sound has 70 kHz
        const auto* bell = the(s, SheetKind::bell, 1);               // "1.2": a Q or octaves?
        QVERIFY(bell && bell->ask.size() == 2 &&
                near(bell->ask[1].q.value_or(0), 1 / (2 * std::sinh(std::log(2) / 2 * 1.2))));
        QVERIFY(the(s, SheetKind::gain, 1)->value == -2 && the(s, SheetKind::gain, 2)->sure());
        auto delay = *the(s, SheetKind::delay, 1);
        answer(delay, 1);
        QVERIFY(near(delay.value, 0.00032));
        QVERIFY(the(s, SheetKind::rmsPower, 1)->value == 120 && the(s, SheetKind::rmsPower, 2)->value == 40);
        QVERIFY(!the(s, SheetKind::lowPass, 2));   // an empty cell says nothing
        QCOMPARE(s.unread.size(), std::size_t(2)); // a line in another language
    }
    void sheetsInOtherLayouts() {
        const auto box = readSheet(demo("sheets/bobbin-s18.txt"));
        QVERIFY(box.ways.empty() && the(box, SheetKind::peakPower, 0)->value == 2560);
        QVERIFY(near(the(box, SheetKind::coil, 0)->value, 88.9) && the(box, SheetKind::lowPass, 0)->shape == 1);
        const auto prose = readSheet(demo("sheets/bobbin-12.txt"));
        const auto* wide = the(prose, SheetKind::bell, 0);
        QVERIFY(wide && near(wide->q, 250.0 / 180)); // both edges 3 dB down
        QVERIFY(the(prose, SheetKind::highPass, 0)->shape == 2 && the(prose, SheetKind::bell, 0, 1)->value == 2200);
        QVERIFY(the(prose, SheetKind::sensitivity, 0)->value == 93);
        QVERIFY(the(prose, SheetKind::minimumImpedance, 0)->value == 6.9); // "8 ohms min 6.9"
        QVERIFY(prose.unread.size() <= 4 && prose.unread.back().line == 6);
    }
    void sheetsThatSayLittle() {
        QVERIFY(readSheet("").fields.empty() && readSheet("   \n\t\n").unread.empty());
        const auto foreign = readSheet("Nennscheinleistung f\u00fcr Dauerbetrieb\n\u9650\u5b9a\u963b\u6297 8\n");
        QVERIFY(foreign.fields.empty() && foreign.unread.size() == 2);
        const auto bare = readSheet("LR24 @ 0.9k");
        QVERIFY(bare.fields.size() == 1 && bare.fields[0].ask.size() == 2); // which side of it?
        auto low = bare.fields[0];
        answer(low, 1);
        QVERIFY(low.kind == SheetKind::lowPass && low.value == 900 && low.slope == 24);
        const auto steep = readSheet("HPF 80 Hz");
        QVERIFY(steep.fields[0].question.find("slope") != std::string::npos);
        QVERIFY(readSheet("HPF BW24").fields.empty() && !readSheet("HPF BW24").unread.empty());
        QVERIFY(readSheet("Impedance -8 ohms").fields.empty() || readSheet("Impedance -8 ohms").fields[0].value == -8);
        for (const char* cut :
             {"HPF", "impedance 8 ohms min", "peak power", "coverage", "taps", "Q", "LPF LR24 @", "eq 400 Hz"})
            QVERIFY2(readSheet(cut).fields.size() <= 1, cut); // found by fuzzing: a word at the very end
        const auto large = readSheet(std::string(200000, 'x') + "\n" + std::string(5000, '\n'));
        QVERIFY(large.lines.size() <= maxSheetLines + 1);
        QVERIFY(near(widthToQ("Q 1.41", 100), 1.41) && near(widthToQ("1 oct", 100), std::sqrt(2.0)) &&
                near(widthToQ("640-1010 Hz", 804), 804.0 / 370) && widthToQ("wide", 100) == 0);
    }

    // -- response files --
    void responsesOfManyKinds() {
        const auto good = readResponse("# x\n100, 80, 0\n1000;90;-90\n10000\t70\t-180\n", "a");
        QVERIFY(good && good->hasPhase && good->notes.size() == 2); // gaps of more than an octave
        QVERIFY(near(std::abs(good->at(1000)), std::pow(10, 4.5)));
        QVERIFY(near(20 * std::log10(std::abs(good->at(std::sqrt(1e5)))), 85));
        QVERIFY(std::abs(good->at(50)) < std::abs(good->at(100)) / 10); // nothing is claimed beyond the ends
        const auto two = readResponse("100 80\n150 81\n", "b");
        QVERIFY(two && !two->hasPhase && two->notes.size() == 1);
        const auto mixed = readResponse("200 1 0\n100 2 0\n200 3 0\n150 2 0\n", "c");
        QVERIFY(mixed && mixed->hz.size() == 3 && mixed->db.back() == 1 && mixed->notes.size() == 2);
        const auto turned = readResponse("100 0 170\n110 0 -170\n", "d");
        QVERIFY(turned && near(turned->deg[1], 190)); // unwrapped
        for (const char* bad : {"", "abc", "100", "100 1 2", "0 1 2\n3 4 5", "100 nan 0\n200 0 0", "100 1e9 0\n200 0 0",
                                "-5 1 2\n6 7 8", "100 1 2\n100 1 2"})
            QVERIFY2(!readResponse(bad, "bad"), bad);
        const auto wrong = readResponse("100 1 2\n-3 1 2\n", "file");
        QVERIFY(wrong.error().place == "file, line 2");
        QVERIFY(!readResponse(std::string(maxResponseBytes + 1, ' '), "huge"));
    }

    // -- fit and alignment --
    void bellsReachTheTarget_data() {
        QTest::addColumn<QString>("file");
        QTest::addColumn<double>("from");
        QTest::addColumn<double>("to");
        QTest::newRow("column") << "bobbin-12.txt" << 150.0 << 12000.0;
        QTest::newRow("ceiling") << "bobbin-c6.txt" << 120.0 << 11000.0;
        QTest::newRow("bass") << "bobbin-s18.txt" << 40.0 << 130.0;
        QTest::newRow("horn") << "oakhaven-x2-high.txt" << 1000.0 << 14000.0;
        QTest::newRow("cone") << "oakhaven-x2-low.txt" << 80.0 << 2000.0;
    }
    void bellsReachTheTarget() {
        QFETCH(QString, file);
        QFETCH(double, from);
        QFETCH(double, to);
        const auto r = readResponse(demo(("responses/" + file).toUtf8()), "r");
        QVERIFY(bool(r));
        FitRange range;
        range.fromHz = from, range.toHz = to;
        const auto fit = fitBells(r->hz, r->db, std::vector<double>(r->hz.size(), 0), range);
        qInfo("%s: %.2f dB before, %.2f after, %zu bells", qPrintable(file), fit.before, fit.after, fit.bells.size());
        QVERIFY(fit.before > 0.7 && fit.after < 1.0 && fit.after < 0.5 * fit.before && fit.bells.size() <= 8);
        // What it says is so: the deviation worked out anew.
        double sum = 0;
        int n = 0;
        for (double f = from; f <= to; f *= std::exp2(1.0 / 24), ++n) {
            const double d = 20 * std::log10(std::abs(r->at(f))) + bellsDb(fit.bells, f, 48000) + fit.levelDb;
            sum += d * d;
        }
        QVERIFY(std::abs(std::sqrt(sum / n) - fit.after) < 0.05);
        for (const auto& b : fit.bells)
            QVERIFY(b.hz >= from && b.hz <= to && b.gainDb <= range.mostUp && b.gainDb >= -range.mostDown &&
                    b.q <= range.mostQ);
        range.bells = 1;
        QVERIFY(fitBells(r->hz, r->db, std::vector<double>(r->hz.size(), 0), range).bells.size() <= 1);
    }
    void delaysAreFound() {
        std::vector<double> hz;
        for (double f = 50; f < 18000; f *= 1.02)
            hz.push_back(f);
        const auto edge = [&](dsp::EdgeSide side, double f) {
            return dsp::response(dsp::designEdge(dsp::EdgeShape::linkwitzRiley, side, 4, 1500, 48000), f, 48000);
        };
        for (const double late : {0.0, 0.13, 0.4, -0.27})
            for (const bool turned : {false, true}) {
                std::vector<dsp::Complex> low, high;
                for (const double f : hz) {
                    low.push_back(edge(dsp::EdgeSide::lowPass, f));
                    high.push_back(edge(dsp::EdgeSide::highPass, f) * (turned ? -1.0 : 1.0) *
                                   std::polar(1.0, -2 * std::numbers::pi * f * late / 1000));
                }
                const auto a = alignWays(hz, low, high, 2);
                QVERIFY2(std::abs(a.delayMs + late) < 0.005, qPrintable(QString::number(a.delayMs)));
                QVERIFY(a.inverted == turned);
            }
    }
};

LOOM_TEST(tst_speakers, TestSpeakers)
#include "tst_speakers.moc"
