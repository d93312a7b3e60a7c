// What hangs on outputs, as people write it; every text that is written is read again as the same.
#ifndef Q_MOC_RUN
#include "catalogue/catalogue.h"
#include "file/store.h"
#include "models.h"
#include "voicings/load_text.h"
#include "voicings/voicing_edit.h"
#endif
#include "test.h"

using namespace loom;
using namespace loom::project;

class TestLoadText : public QObject {
    Q_OBJECT
    Project p_;

    void device(const char* id, const char* name, const char* model, const char* voicing = "") {
        Device d;
        d.models = test::models();
        d.id = id, d.name = name, d.model = model, d.voicing = voicing;
        p_.devices.push_back(d);
    }
    std::vector<LoudspeakerLoad> read(const char* text) {
        auto loads = readLoads(p_, text);
        if (!loads)
            qWarning("%s: %s", text, loads.error().text().c_str());
        return loads ? *loads : std::vector<LoudspeakerLoad>{};
    }
    std::string refused(const char* text) {
        const auto loads = readLoads(p_, text);
        return loads ? "" : loads.error().text();
    }

  private slots:
    void init() {
        p_ = {};
        for (int i = 1; i <= 12; ++i)
            device(("bar-" + std::to_string(i)).c_str(), ("Bar ceiling " + std::to_string(i)).c_str(), "bobbin-c6");
        device("main-l", "Main L", "oakhaven-x2", "x2"), device("main-r", "Main R", "oakhaven-x2", "x2");
        device("odd", "Bass, left @ stage", "bobbin-s18"), device("sub-2", "Sub-2", "bobbin-s18");
        device("mic", "Chair", "reed-g40");
        auto v = newVoicing("x2", "X2", 2);
        v.ways[0].name = "Low", v.ways[1].name = "High";
        p_.voicings.push_back(v);
    }
    void namesIdsRangesWaysAndTaps() {
        QVERIFY(read("").empty() && read(" , ").empty());
        QCOMPARE(read("main r")[0].device, std::string("main-r"));
        QCOMPARE(read("main-l")[0].device, std::string("main-l"));
        QCOMPARE(read("Sub-2")[0].device, std::string("sub-2")); // no range
        QCOMPARE(read("Main L: high")[0].way, 1);
        QCOMPARE(read("main-l : 2")[0].way, 1);
        QCOMPARE(read("main-l:1")[0].way, 0);
        QCOMPARE(read("odd")[0].device, std::string("odd"));
        const auto ten = read("bar ceiling 2-11 @ 7.5 W, Main L");
        QCOMPARE(ten.size(), 11u);
        QVERIFY(ten[0].device == "bar-2" && ten[9].device == "bar-11" && ten[0].tapWatts == 7.5);
        QVERIFY(ten[10].device == "main-l" && ten[10].tapWatts == 0 && ten[10].way == 0);
        QCOMPARE(read("Bar ceiling 1 \u2013 3").size(), 3u);
        QCOMPARE(read("Bar ceiling 1@6w")[0].tapWatts, 6.0);
        QCOMPARE(read("Bar ceiling 1 @ 10000")[0].tapWatts, 10000.0);
        QCOMPARE(read("Bar ceiling 1 @ 0")[0].tapWatts, 0.0);
    }
    void whatIsNoneIsRefused() {
        QVERIFY(refused("Nobody").find("no loudspeaker \"Nobody\"") != std::string::npos);
        QVERIFY(refused("Chair").find("no loudspeaker") != std::string::npos); // a microphone
        QVERIFY(refused("Bar ceiling 10-13").find("\"Bar ceiling 13\"") != std::string::npos);
        QVERIFY(refused("Bar ceiling 3-1").find("no loudspeaker") != std::string::npos);
        for (const char* tap : {"@", "@ W", "@ six", "@ -1", "@ 10001 W", "@ 6 W 7"})
            QVERIFY2(refused((std::string("Bar ceiling 1 ") + tap).c_str()).find("tap in watts") != std::string::npos,
                     tap);
        for (const char* way : {"Mid", "3", "0", "-1"})
            QVERIFY2(refused((std::string("Main L: ") + way).c_str()).find("has no way") != std::string::npos, way);
    }
    void whatIsWrittenIsReadAgain() {
        AmplifierOutput out;
        const auto told = [&](const char* text) {
            out.loads = read(text);
            const std::string said = loadsText(p_, out);
            const auto again = readLoads(p_, said);
            if (!again || !(*again == out.loads))
                return "not the same: " + said;
            return said;
        };
        QCOMPARE(told("main-l: 2, main-r: 2"), std::string("Main L: High, Main R: High"));
        QCOMPARE(told("bar-1, bar-2, bar-3, bar-5"), std::string("Bar ceiling 1\u20133, Bar ceiling 5"));
        QCOMPARE(told("bar-3, bar-2"), std::string("Bar ceiling 3, Bar ceiling 2"));
        QCOMPARE(told("odd, sub-2"), std::string("odd, Sub-2")); // its name would be read as two
        out.wiring = Wiring::line100;
        QCOMPARE(told("Bar ceiling 1-2 @ 6, Bar ceiling 3 @ 3"),
                 std::string("Bar ceiling 1\u20132 @ 6 W, Bar ceiling 3 @ 3 W"));
        out.loads = {{"gone", 2}};
        QCOMPARE(loadsText(p_, out), std::string("gone: 3"));
    }
    void theDemosOutputsAreReadAgain() {
        const auto demo = test::load(LOOM_SOURCE_DIR "/demo/marram-point");
        QVERIFY(bool(demo));
        int outputs = 0;
        for (const auto& d : demo->devices)
            for (const auto& [port, out] : d.outputs) {
                const auto again = withLoads(*demo, out, loadsText(*demo, out));
                QVERIFY2(again && *again == out, loadsText(*demo, out).c_str());
                ++outputs;
            }
        QVERIFY(outputs > 8);
    }
    void tapsMakeALine() {
        AmplifierOutput out;
        auto hung = withLoads(p_, out, "Bar ceiling 1-3");
        QVERIFY(hung && hung->wiring == Wiring::parallel);
        hung = withLoads(p_, *hung, "@ 7.5 W");
        QVERIFY(hung && hung->wiring == Wiring::line100 && hung->loads.size() == 3);
        for (const auto& l : hung->loads)
            QCOMPARE(l.tapWatts, 7.5);
        hung->wiring = Wiring::line70;
        hung = withLoads(p_, *hung, "all @3");
        QVERIFY(hung && hung->wiring == Wiring::line70 && hung->loads[2].tapWatts == 3);
        QVERIFY(!withLoads(p_, *hung, "@ six"));
        QVERIFY(!withLoads(p_, {}, "@ 6 W")); // nothing hangs there
        QVERIFY(withLoads(p_, *hung, "")->loads.empty());
    }
    void wiringAndCables() {
        QVERIFY(*readWiring("Par") == Wiring::parallel && *readWiring("s") == Wiring::series);
        QVERIFY(*readWiring("70") == Wiring::line70 && *readWiring("100 V") == Wiring::line100);
        QVERIFY(*readWiring("70.7 V") == Wiring::line70);
        QVERIFY(*readWiring("7") == Wiring::line70); // its beginning
        for (const char* none : {"", " ", "8", "delta", "parallels"})
            QVERIFY2(!readWiring(none), none);
        const auto warm = withCrossSection({}, "4, 40");
        QVERIFY(warm && warm->mm2 == 4 && warm->celsius == 40);
        QVERIFY(withCrossSection({}, "0.75")->mm2 == 0.75 && withCrossSection({}, "0.75")->celsius == 20);
        for (const char* none : {"", "0.01", "101", "4, 200", "4, warm", "thick"})
            QVERIFY2(!withCrossSection({}, none), none);
    }
};

LOOM_TEST(tst_load_text, TestLoadText)
#include "tst_load_text.moc"
