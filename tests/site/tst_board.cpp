// Small boards: knobs and push-buttons, images as Intel HEX, the size of the store.
#ifndef Q_MOC_RUN
#include "catalogue/catalogue.h"
#include "engine/block_kind.h"
#include "file/store.h"
#include "findings/findings.h"
#include "model/knob.h"
#include "models.h"
#include "site/board_image.h"
#include <cmath>
#include <random>
#endif
#include "test.h"

using namespace loom;
using project::KnobUse;

class TestBoard : public QObject {
    Q_OBJECT
    static project::Device board() {
        auto p = test::load(LOOM_SOURCE_DIR "/demo/marram-point");
        return *p->device("spindle-cellar");
    }

  private slots:
    void knobsAreReadAndWritten() {
        const auto use = project::readKnob("  main-l.level.gain   -40..0 ");
        QVERIFY(use && use->path == "main-l.level.gain" && use->from == -40 && use->to == 0);
        QCOMPARE(project::knobText(*use), std::string("main-l.level.gain -40..0"));
        const auto turned = project::readKnob("eq.1.hz 8000..100 log");
        QVERIFY(turned && turned->travel == KnobUse::Travel::logarithmic && turned->from == 8000);
        QCOMPARE(project::knobText(*turned), std::string("eq.1.hz 8000..100 log"));
        QVERIFY(project::readKnob("")->path.empty());
        for (const char* bad : {"gain", "gain -40", "gain 1..", "gain 1..2 fast", "gain a..b", "gain 1..2 log more",
                                "gain nan..2", "gain 1..inf"})
            QVERIFY2(!project::readKnob(bad), bad);
    }
    void knobsTravelAsTheyAreTold() {
        const auto level = engine::levelParam("gain", "Level", -80, 12, 0, true);
        const auto hz = engine::frequencyParam("hz", "Frequency", 1000);
        const auto choice = engine::choiceParam("kind", "Kind", {"a", "b", "c"});
        QCOMPARE(project::knobValue({"x", -40, 0}, level, 0.5), -20.0);
        QCOMPARE(project::knobValue({"x", 0, -40}, level, 0.25), -10.0);                 // the other way round
        QVERIFY(std::abs(project::knobValue({"x", 100, 10000}, hz, 0.5) - 1000) < 1e-9); // its own taper
        QCOMPARE(project::knobValue({"x", 100, 10000, KnobUse::Travel::even}, hz, 0.5), 5050.0);
        QCOMPARE(project::knobValue({"x", 0, 2}, choice, 0.6), 1.0);
        QCOMPARE(project::knobValue({"x", -40, 0}, level, 7), 0.0); // no further than its end
        for (const KnobUse& use : {KnobUse{"x", 100, 10000}, KnobUse{"x", 10000, 100, KnobUse::Travel::even}})
            for (const double at : {0.0, 0.3, 1.0})
                QVERIFY(std::abs(project::knobPlace(use, hz, project::knobValue(use, hz, at)) - at) < 1e-12);
    }
    void knobsActOnWhatThereIs() {
        const auto d = board();
        const auto wrong = [&](const char* text) { return !project::checkKnob(*project::readKnob(text), *d.program); };
        QVERIFY(!wrong("main-l.level.gain -40..0"));
        QVERIFY(wrong("main-x.level.gain -40..0") && wrong("main-l.level.gain -400..0"));
        QVERIFY(wrong("main-l.level.gain -40..-10 log"));
        // In a set-up: by its text, and against the program.
        const auto* m = test::models().find("spindle-3x6");
        QCOMPARE(project::setUpOf(*m).size(), 10u); // name, six knobs, three push-buttons
        QCOMPARE(project::setUpLabel("button 1"), std::string("Push-button 1"));
        QVERIFY(project::checkSetUp(*m, {{"knob 4", "main-l.level.gain -40..0"}}));
        QVERIFY(!project::checkSetUp(*m, {{"knob 7", ""}}) && !project::checkSetUp(*m, {{"knob 1", "loud"}}));
        QVERIFY(project::checkControls({{"knob 1", "main-l.level.gain -40..0"}}, d.program));
        QVERIFY(!project::checkControls({{"knob 1", "gone.gain -40..0"}}, d.program));
        QVERIFY(!project::checkControls({{"knob 1", "main-l.level.gain -40..0"}}, std::nullopt));
        QVERIFY(project::checkControls(project::setUpOf(d), d.program)); // the demo's
    }
    void aKnobWithoutItsParameterIsAFinding() {
        auto d = board();
        const auto found = [&] {
            const auto all = project::check(d);
            return std::count_if(all.begin(), all.end(), [](const auto& f) { return f.id() == "knob-lost"; });
        };
        QCOMPARE(found(), 0);
        erase_if(d.program->blocks, [](const auto& b) { return b.id == "main-l.level"; });
        QCOMPARE(found(), 1);
        d.setUp.erase("knob 1");
        QCOMPARE(found(), 0);
    }
    // A line of the format's description, and all lengths around a line and a bank.
    void hexIsWhatTheFormatSays() {
        const auto line = site::fromIntelHex(":10010000214601360121470136007EFE09D2190140\n:00000001FF\n", 1000);
        QVERIFY(line && line->size() == 0x110 && (*line)[0x100] == 0x21 && (*line)[0x10F] == 0x01 && (*line)[0] == 255);
        QCOMPARE(site::toIntelHex({0x21, 0x46}), std::string(":02000000214697\n:00000001FF\n"));
        std::mt19937 random(3);
        for (const std::size_t n : {0u, 1u, 15u, 16u, 17u, 300u, 65535u, 65536u, 65537u, 70000u}) {
            site::Bytes bytes(n);
            for (auto& b : bytes)
                b = static_cast<std::uint8_t>(random());
            const auto back = site::fromIntelHex(site::toIntelHex(bytes), 1 << 20);
            QVERIFY(back && *back == bytes);
        }
    }
    void damagedHexIsRefusedWithItsLine() {
        const std::string good = site::toIntelHex(site::Bytes(40, 0x5A));
        for (std::size_t i = 0; i < good.size(); ++i) { // every letter but the line ends: another digit
            if (good[i] == '\n' || good[i] == ':')
                continue;
            auto bad = good;
            bad[i] = bad[i] == '3' ? '4' : '3';
            QVERIFY2(!site::fromIntelHex(bad, 1000), qPrintable(QString::number(i)));
        }
        const auto wrong = [](const char* text, std::size_t most = 1000) {
            const auto r = site::fromIntelHex(text, most);
            return r ? QString() : QString::fromStdString(r.error().text());
        };
        QVERIFY(wrong(":00000001FF\n").isEmpty());
        QVERIFY(wrong("").contains("no end") && wrong(":0100000000FF\n").contains("no end"));
        QVERIFY(wrong("hello\n").contains("line 1") && wrong("\n\n:01000000ZZ00\n").contains("line 3"));
        QVERIFY(wrong(":0100000000FF\n:00000001FF\n", 0).contains("beyond"));
        QVERIFY(wrong(":00000003FD\n").contains("kind"));
    }
    void imagesHoldTheBoardWhole() {
        const auto d = board();
        const auto* m = d.spec();
        const auto config = site::designOf({}, d);
        const auto hex = site::hexImageOf(config, *m);
        QVERIFY2(bool(hex), hex ? "" : hex.error().text().c_str());
        const auto back = site::configOfHexImage(*hex, *m);
        QVERIFY(back && site::fingerprint(*back) == site::fingerprint(config));
        QCOMPARE(back->setUp.at("knob 1"), std::string("main-l.level.gain -40..0"));
        // One bit anywhere is seen.
        const auto image = site::imageOf(config);
        for (std::size_t i = 0; i < image.size(); i += 37) {
            auto bad = image;
            bad[i] ^= 8;
            QVERIFY2(!site::configOfImage(bad), qPrintable(QString::number(i)));
        }
        QVERIFY(!site::configOfImage({}) && !site::configOfImage(site::Bytes(13, 255)));
        auto small = *m;
        small.storeBytes = static_cast<double>(image.size()) - 10;
        const auto refused = site::hexImageOf(config, small);
        QVERIFY(!refused && refused.error().text().find("10 bytes too long") != std::string::npos);
        QVERIFY(!site::configOfHexImage(*hex, small));
    }
};

LOOM_TEST(tst_board, TestBoard)
#include "tst_board.moc"
