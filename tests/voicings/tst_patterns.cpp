// Patterns of makers' sheets in the user's library, limits that makers state, and PDFs.
#ifndef Q_MOC_RUN
#include "disk/pdf_text.h"
#include "disk/safe_file.h"
#include "loudspeaker/protection.h"
#include "loudspeaker/sheet.h"
#include "voicings/sheet_patterns.h"
#include "voicings/voicing_fields.h"
#include <cmath>
#endif
#include "test.h"
#include <QTemporaryDir>

using namespace loom;
using namespace loom::project;
using loudspeaker::SheetPattern;

class TestPatterns : public QObject {
    Q_OBJECT
    QTemporaryDir home_;

  private slots:
    void initTestCase() { qputenv("XDG_DATA_HOME", home_.path().toUtf8()); }
    void keptAndAddedTo() {
        SheetPattern p{"Sedge & Rush", "Sedge & Rush", {"trim a"}, {{"level", {"trim a"}}}, {{"shape/3", 1}}};
        const auto back = readPattern(patternText(p), "p");
        QVERIFY(back && back->words == p.words && back->answers == p.answers && back->labels == p.labels);
        QVERIFY(sheetPatterns().empty() && keepPattern(p));
        SheetPattern more{
            "Sedge & Rush", "Sedge & Rush", {"bite"}, {{"bell", {"bite"}}, {"ignored", {"trim a"}}}, {{"shape/3", 0}}};
        QVERIFY(keepPattern(more));
        const auto all = sheetPatterns();
        QCOMPARE(all.size(), std::size_t(1)); // one a maker; what was said last counts
        QVERIFY(all[0].words.at("ignored").front() == "trim a" && !all[0].words.count("level"));
        QVERIFY(all[0].answers.at("shape/3") == 0 && all[0].labels.size() == 2);
    }
    void patternsThatAreNone() {
        const auto refuses = [](const char* text, const char* why) {
            const auto r = readPattern(text, "p");
            return !r && r.error().text().find(why) != std::string::npos;
        };
        QVERIFY(refuses("", "no pattern") && refuses("[1]", "no pattern") && refuses("{\"format\": 3}", "no pattern"));
        const std::string head = "{\"format\":\"nimble-loom-sheet-pattern\"";
        QVERIFY(refuses((head + "}").c_str(), "no name"));
        QVERIFY(refuses((head + ",\"name\":\"a\",\"words\":{\"lvel\":[\"x\"]}}").c_str(), "lvel"));
        QVERIFY(refuses((head + ",\"name\":\"a\",\"words\":{\"level\":[3]}}").c_str(), "level"));
        QVERIFY(refuses((head + ",\"name\":\"a\",\"answers\":{\"shape\":-1}}").c_str(), "no number"));
        QVERIFY(refuses((head + ",\"name\":\"a\",\"labels\":7}").c_str(), "labels"));
        std::vector<Error> errors;
        QVERIFY(writeWhole(sheetPatternFolder() + "/broken.json", "{", false));
        (void)sheetPatterns(&errors);
        QVERIFY(errors.size() == 1 && errors[0].place.find("broken.json") != std::string::npos);
    }
    void limitsOfTheMaker() {
        using namespace loudspeaker;
        QVERIFY(statedLimit("104 V")->value == 104 && !statedLimit("104 V")->dbu);
        QVERIFY(statedLimit("7,5 dBu")->value == 7.5 && statedLimit("7,5 dBu")->dbu && statedLimit("46Vrms"));
        QVERIFY(!statedLimit("") && !statedLimit("5 dB") && !statedLimit("-3 V") && !statedLimit("V") &&
                !statedLimit("9000 V"));
        const DriverPower driver{8, 200, 800, DriverKind::cone, 75, 0};
        Drive drive;
        drive.gainDb = 32;
        const auto free = protect(driver, drive, {}); // 80 V peak, 40 V r.m.s.
        auto limit = free.peak;
        hold(limit, {60, false}, true, drive);
        QVERIFY(std::abs(limit.volts - 60) < 1e-9 && limit.reason.find("maker's limit of 60 V") != std::string::npos);
        QVERIFY(std::abs(limit.dbfs - (free.peak.dbfs + 20 * std::log10(60.0 / 80))) < 1e-9);
        QVERIFY(std::abs(limit.watts - 60.0 * 60 / 8) < 1e-6 && std::abs(limit.dbu - free.peak.dbu + 2.4988) < 1e-3);
        limit = free.peak;
        hold(limit, {104, false}, true, drive);
        QVERIFY(limit.volts == free.peak.volts && limit.reason.find("the maker allows 104 V") != std::string::npos);
        // 0 dBu are 0.7746 V; 32 dB more 30.84 V r.m.s., 43.6 V peak
        limit = free.thermal;
        hold(limit, {0, true}, false, drive);
        QVERIFY(std::abs(limit.volts - 0.7745967 * std::pow(10, 1.6)) < 1e-4);
        limit = free.peak;
        hold(limit, {0, true}, true, drive);
        QVERIFY(std::abs(limit.volts - 0.7745967 * std::pow(10, 1.6) * std::sqrt(2)) < 1e-4);
        drive.partOfVolts = 0.5; // two in series: 60 V at each are 120 V at the output
        limit = protect(driver, drive, {}).peak;
        hold(limit, {60, false}, true, drive);
        QVERIFY(std::abs(limit.volts - 120) < 1e-9);
        const auto v = voicingFrom(
            readSheet("LF\nPower 200 W AES\nPeak limit 92 V, attack 1 ms, release 200 ms\nRMS limit 5 dBu\n"), {}, "v");
        QVERIFY(v.ways[0].peakLimit == "92 V" && v.ways[0].rmsLimit == "5 dBu" && v.ways[0].limitAttackMs == 1);
    }
    void textOfPdfs() {
        const std::string folder = LOOM_SOURCE_DIR "/tests/samples/pdf/";
        const auto text = pdfText(folder + "teasel-10.pdf");
        QVERIFY2(bool(text), text ? "" : text.error().text().c_str());
        const auto s = loudspeaker::readSheet(*text);
        QCOMPARE(s.ways, (std::vector<std::string>{"Low", "High"}));
        QCOMPARE(s.limits.size(), std::size_t(2));
        const auto says = [&](const std::string& path, const char* why) {
            const auto r = pdfText(path);
            return !r && r.error().text().find(why) != std::string::npos;
        };
        QVERIFY(says(folder + "scan.pdf", "pictures") && says(folder + "locked.pdf", "encrypted"));
        QVERIFY(says(folder + "make.py", "no PDF") && says(folder + "gone.pdf", "cannot be read"));
        QVERIFY(isPdf("%PDF-1.4") && !isPdf("text"));
        const auto path = qgetenv("PATH");
        qputenv("PATH", home_.path().toUtf8());
        QVERIFY(says(folder + "teasel-10.pdf", "poppler-utils"));
        qputenv("PATH", path);
    }
};

LOOM_TEST(tst_patterns, TestPatterns)
#include "tst_patterns.moc"
