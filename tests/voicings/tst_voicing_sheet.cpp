// Voicings written as sheets, and read back without a question.
#ifndef Q_MOC_RUN
#include "dsp/number.h"
#include "file/store.h"
#include "voicings/voicing_edit.h"
#include "voicings/voicing_fields.h"
#include "voicings/voicing_sheet.h"
#include <cmath>
#include <random>
#endif
#include "models.h"
#include "test.h"

using namespace loom;
using namespace loom::project;

class TestVoicingSheet : public QObject {
    Q_OBJECT
    // What a sheet says of a voicing, as one text: bells that are on in their order, edges that are on.
    static std::string said(const Voicing& v) { return sheetText(v); }
    static std::string readBack(const Voicing& v, const std::string& text) {
        auto sheet = loudspeaker::readSheet(text);
        for (const auto& f : sheet.fields)
            if (!f.sure())
                return "asks: " + f.question + " (" + loudspeaker::textOf(f) + ")";
        std::vector<std::string> over;
        auto back = voicingFrom(sheet, {}, v.id, &over);
        if (!over.empty())
            return over.front();
        return said(back);
    }

    static std::string firstDifference(const std::string& a, const std::string& b) {
        std::size_t at = 0;
        while (at < std::min(a.size(), b.size()) && a[at] == b[at])
            ++at;
        at -= std::min<std::size_t>(at, 60);
        return "read \"" + a.substr(at, 120) + "\", written \"" + b.substr(at, 120) + "\"";
    }

  private slots:
    void ofTheDemo() {
        const auto p = loadProject(LOOM_SOURCE_DIR "/demo/marram-point", test::models());
        QVERIFY(p && p->voicings.size() >= 3);
        for (const auto& v : p->voicings) {
            QVERIFY2(readBack(v, sheetText(v)) == said(v), firstDifference(readBack(v, sheetText(v)), said(v)).c_str());
            QVERIFY2(readBack(v, sheetCsv(v)) == said(v), firstDifference(readBack(v, sheetCsv(v)), said(v)).c_str());
        }
    }
    void thousandAtRandom() {
        std::mt19937 dice(20);
        const auto real = [&](double low, double high) {
            return std::uniform_real_distribution<double>(low, high)(dice);
        };
        const auto some = [&](double low, double high) { // as people type them, or with all digits
            const double v = real(low, high);
            return dice() % 3 == 0 ? v : std::round(v * 100) / 100;
        };
        static const char* const names[] = {"Low",   "High",          "Mid",          "Sub",   "Woofer A",
                                            "x 2",   "\u00c9t\u00e9", "Horn (1.4\")", "Way 7", "Delay",
                                            "8 ohm", "HF: top",       "off"};
        for (int n = 0; n < 1000; ++n) {
            const int ways = 1 + static_cast<int>(dice() % mostWays);
            auto v = newVoicing("v", "Test " + std::to_string(n), ways);
            if (dice() % 2)
                v.maker = "Reed & Row";
            if (dice() % 2) {
                v.across = some(20, 180);
                v.upDown = some(20, 180);
            }
            for (int k = static_cast<int>(dice() % 4); k > 0; --k)
                v.taps.push_back(some(1, 100));
            const auto bells = [&](engine::Block& eq) {
                for (std::size_t k = 1; k <= mostBells; ++k) {
                    const std::string at = std::to_string(k) + ".";
                    if (dice() % 2)
                        continue;
                    eq.values[at + "on"] = 1;
                    eq.values[at + "kind"] = static_cast<double>(dice() % 3);
                    eq.values[at + "hz"] = some(20, 20000);
                    eq.values[at + "gain"] = some(-24, 24);
                    eq.values[at + "q"] = some(0.1, 40);
                    eq.values["on"] = 1;
                }
            };
            bells(v.whole);
            for (int w = 0; w < ways; ++w) {
                auto& way = v.ways[static_cast<std::size_t>(w)];
                way.name = names[dice() % std::size(names)];
                way.driver = dice() % 2 ? loudspeaker::DriverKind::compression : loudspeaker::DriverKind::cone;
                way.nominalOhms = some(2, 32);
                if (dice() % 2)
                    way.minimumOhms = some(1.5, 30);
                if (dice() % 2)
                    way.rmsWatts = some(5, 2000);
                if (dice() % 2)
                    way.peakWatts = some(20, 8000);
                if (dice() % 2)
                    way.sensitivity = some(80, 118);
                if (dice() % 2)
                    way.coilMm = some(19, 130);
                const std::string number = std::to_string(w + 1) + ".";
                for (const char* part : {"highpass", "lowpass"}) {
                    auto& b = *partOf(v, number + part);
                    if (dice() % 3 == 0)
                        continue;
                    b.values["on"] = 1;
                    b.values["corner"] = some(20, 20000);
                    b.values["shape"] = static_cast<double>(dice() % 3);
                    b.values["slope"] = b.values["shape"] == 1 ? static_cast<double>(1 + 2 * (dice() % 4))
                                                               : static_cast<double>(dice() % 8);
                }
                bells(*partOf(v, number + "eq"));
                partOf(v, number + "level")->values["gain"] = some(-40, 12);
                partOf(v, number + "level")->values["polarity"] = static_cast<double>(dice() % 2);
                partOf(v, number + "delay")->values["time"] = some(0, 40);
            }
            const auto text = sheetText(v);
            QVERIFY2(readBack(v, text) == said(v), firstDifference(readBack(v, text), said(v)).c_str());
            const auto csv = sheetCsv(v);
            QVERIFY2(readBack(v, csv) == said(v), (firstDifference(readBack(v, csv), said(v))).c_str());
        }
    }
};

LOOM_TEST(tst_voicing_sheet, TestVoicingSheet)
#include "tst_voicing_sheet.moc"
