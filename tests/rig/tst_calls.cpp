// A call in the hall on the rig: dialled, muted at each place in turn, through a cut line and without power; the wall
// between two rooms opens in a call.
#ifndef Q_MOC_RUN
#include "rig/rig.h"
#include "site/calls.h"
#endif
#include "models.h"
#include "test.h"
#include <QTemporaryDir>

using namespace loom;
using nlohmann::json;

class TestCalls : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;
    project::Project demo_;
    std::unique_ptr<rig::Rig> rig_;

    rig::Device& device(const char* serial) { return rig_->server(serial)->device(); }
    bool fault(const char* serial, const char* name, const char* value) {
        const auto done = rig_->setFault(serial, name, json::parse(value));
        if (!done)
            qWarning("%s", done.error().text().c_str());
        return bool(done);
    }
    // What every place of the hall's mute tells, and what the processor cuts.
    bool all(bool muted) {
        for (const auto& [serial, keys] :
             {std::pair("H", std::vector<std::string>{"usb 1", "usb 2", "tel 1", "council"}),
              {"T", {"self"}},
              {"S", {"self"}},
              {"C", {"self"}}}) {
            if (!device(serial).powered())
                continue;
            const auto now = device(serial).health().mutes;
            for (const auto& key : keys)
                if (!now.count(key) || now.at(key) != muted)
                    return false;
        }
        return true;
    }
    double cut() { return *device("H").get(cutPath_); }
    std::string cutPath_;

  private slots:
    void init() {
        demo_ = *test::load(LOOM_SOURCE_DIR "/demo/marram-point");
        for (const auto& b : demo_.device("heddle")->program->blocks)
            if (b.kind == "mute")
                cutPath_ = b.id + ".muted";
        const auto scenario = site::scenarioFromJson(json::parse(R"({"devices": [
            {"serial": "H", "model": "heddle-16", "address": "127.20.9.10", "as": "heddle", "faults": {"secret": "knot"}},
            {"serial": "E", "model": "heddle-8", "address": "127.20.9.11", "as": "heddle-8-rack-a"},
            {"serial": "T", "model": "tap", "address": "127.20.9.12", "as": "council-tap"},
            {"serial": "S", "model": "slate-10", "address": "127.20.9.13", "as": "council-slate"},
            {"serial": "C", "model": "canopy-8", "address": "127.20.9.14", "as": "council-canopy"},
            {"serial": "A", "model": "tap", "address": "127.20.9.15", "as": "tern-tap"},
            {"serial": "B", "model": "tap", "address": "127.20.9.16", "as": "plover-tap"}]})"));
        QVERIFY(bool(scenario));
        rig_ = std::make_unique<rig::Rig>(test::models(), 47316);
        QVERIFY(rig_->open().isEmpty());
        // Without rooms: who talks far away is heard all the same.
        const auto done =
            rig_->play(*scenario, &demo_, &demo_,
                       folder_.filePath(QString::number(QRandomGenerator::global()->generate())).toStdString());
        QVERIFY2(bool(done), done ? "" : done.error().text().c_str());
        QTRY_VERIFY_WITH_TIMEOUT(cut() == 0, 20000); // it cut until it knew
    }
    void cleanup() { rig_.reset(); }

    void everyPlaceMutesAndAllFollow() {
        QVERIFY(all(false));
        for (int turn = 0; turn < 2; ++turn) {
            const bool muted = turn == 0;
            device("T").pressButton();
            QTRY_VERIFY_WITH_TIMEOUT(all(muted), 20000);
            QCOMPARE(cut(), muted ? 1.0 : 0.0);
            QCOMPARE(device("T").health().lamp, std::string(muted ? "muted" : "live"));
        }
        device("S").pressButton();
        QTRY_VERIFY_WITH_TIMEOUT(all(true), 20000);
        QVERIFY(fault("H", "computer", R"({"mute": false})")); // its user presses it there
        QTRY_VERIFY_WITH_TIMEOUT(all(false), 20000);
        QVERIFY(bool(device("H").set(cutPath_, 1, "a surface"))); // and where it is cut
        QTRY_VERIFY_WITH_TIMEOUT(all(true), 20000);
        QVERIFY(bool(device("H").mute("council", false, "somebody")));
        QTRY_VERIFY_WITH_TIMEOUT(all(false), 20000);
        QVERIFY(!device("H").mute("foyer", true, "somebody"));
        device("C").pressButton(); // it only shows it
        QTest::qWait(1);
        QVERIFY(all(false));
        // The design does not hear of it.
        QVERIFY(!device("H").state().running->turned);
        QVERIFY(device("H").health().mutes.at("council") == false && !device("A").health().mutes.at("self"));
    }
    void aWiredButtonAndItsLamp() {
        QVERIFY(bool(device("H").setUp("contact 2", "mute council", "test")) &&
                bool(device("H").setUp("relay 1", "lamp council", "test")));
        QVERIFY(fault("T", "cable", "\"out\"") && fault("H", "cable", "\"out\""));
        QVERIFY(fault("H", "contact", R"({"contact 2": true})")); // pressed, with no network at all
        QCOMPARE(cut(), 1.0);
        QVERIFY(device("H").health().mutes.at("relay 1"));
        QVERIFY(fault("H", "contact", R"({"contact 2": false})"));
        QCOMPARE(cut(), 1.0);
        QVERIFY(fault("H", "contact", R"({"contact 2": true})"));
        QVERIFY(cut() == 0 && !device("H").health().mutes.at("relay 1"));
        QVERIFY(!fault("H", "contact", R"({"contact 9": true})") && !fault("T", "contact", R"({"contact 1": true})"));
        QVERIFY(!device("H").setUp("contact 2", "lamp council", "test"));
    }
    void throughACutLineAndWithoutPower() {
        device("T").pressButton();
        QTRY_VERIFY_WITH_TIMEOUT(all(true), 20000);
        QVERIFY(fault("H", "cable", "\"out\""));
        QTRY_COMPARE_WITH_TIMEOUT(device("T").health().lamp, std::string("waits"),
                                  20000); // nobody is there who cuts it
        QVERIFY(fault("H", "cable", "\"in\""));
        QTRY_COMPARE_WITH_TIMEOUT(device("T").health().lamp, std::string("muted"), 20000);
        QVERIFY(fault("H", "cable", "\"out\""));
        device("T").pressButton(); // live, and the processor does not hear of it
        QTest::qWait(1);
        QCOMPARE(cut(), 1.0);
        QVERIFY(fault("H", "cable", "\"in\""));
        // The newer, or muted if it was away for long (tst_mute_link has both); but the same everywhere.
        QTRY_VERIFY_WITH_TIMEOUT(all(false) || all(true), 20000);
        const auto live = [&] { // on a busy machine the longer absence may be noticed after the first press
            if (all(true))
                device("T").pressButton();
            return all(false);
        };
        QTRY_VERIFY_WITH_TIMEOUT(live(), 20000);
        device("T").pressButton();
        QTRY_VERIFY_WITH_TIMEOUT(all(true), 20000);
        QVERIFY(fault("H", "power", "\"off\"") && fault("H", "power", "\"on\""));
        QCOMPARE(cut(), 1.0); // at once, before it was told
        QTRY_VERIFY_WITH_TIMEOUT(all(true), 20000);
        QVERIFY(fault("T", "power", "\"off\""));
        device("S").pressButton();
        QTRY_VERIFY_WITH_TIMEOUT(cut() == 0, 20000);
        QVERIFY(fault("T", "power", "\"on\""));
        QTRY_VERIFY_WITH_TIMEOUT(all(false), 20000);
    }
    void aCallByTelephone() {
        auto& h = device("H");
        QCOMPARE(h.lines().size(), 1u);
        QVERIFY(h.lines()[0].registered && h.lines()[0].secret);
        QVERIFY(!h.call("tel 1", "dial", "the hall") && !h.call("tel 2", "dial", "17") &&
                !h.call("tel 1", "whistle", ""));
        QVERIFY(bool(h.call("tel 1", "dial", "2041")));
        QTRY_VERIFY_WITH_TIMEOUT(h.lines()[0].how.find("in a call with 2041") == 0, 60000);
        const auto loud = [&](std::size_t last) {
            const auto heard = h.heardFarAway("tel 1");
            float most = 0;
            for (std::size_t i = heard.size() > last ? heard.size() - last : 0; i < heard.size(); ++i)
                most = std::max(most, std::abs(heard[i]));
            return most;
        };
        QTRY_VERIFY_WITH_TIMEOUT(h.heardFarAway("tel 1").size() > 48000 && loud(48000) > 0.001f,
                                 60000); // the computer's user, over the mix
        QVERIFY(bool(h.call("tel 1", "keys", "42#")));
        QVERIFY(bool(h.call("tel 1", "hold", "")) && h.lines()[0].how.find("on hold") == 0 &&
                bool(h.call("tel 1", "resume", "")));
        device("T").pressButton(); // whoever is on the line hears nothing from the room any more
        QTRY_VERIFY_WITH_TIMEOUT(all(true), 20000);
        QTRY_VERIFY_WITH_TIMEOUT(loud(12000) < 0.0005f, 60000);
        QVERIFY(fault("H", "exchange", R"({"here": false})"));
        QTRY_VERIFY_WITH_TIMEOUT(!h.lines()[0].registered && h.lines()[0].how.find("not registered") == 0, 20000);
        const auto findings = site::callFindings(demo_, {{"heddle", h.health()}});
        QVERIFY(findings.size() == 1 && findings[0].code == project::FindingCode::lineDown);
        QVERIFY(fault("H", "exchange", R"({"here": true, "accounts": {"council": "knot"}})") &&
                h.lines()[0].registered);
        QVERIFY(bool(h.setLineSecret("net")) && !h.lines()[0].registered);
        QVERIFY(!fault("H", "exchange", R"({"x": 1})") && !fault("H", "line", R"({"codec": "mp3"})") &&
                !fault("H", "computer", R"({"channel": 3})"));
    }
    void aComputerGoesInACall() {
        QVERIFY(fault("H", "computer", R"({"channel": 2, "rate": 16000})"));
        QTRY_VERIFY(device("H").health().lines.at("usb 1").find("channel 2") != std::string::npos);
        QVERIFY(fault("H", "computer", R"({"here": false})"));
        const auto findings = site::callFindings(demo_, {{"heddle", device("H").health()}});
        QVERIFY(std::any_of(findings.begin(), findings.end(),
                            [](const auto& f) { return f.code == project::FindingCode::computerGone; }));
        QVERIFY(fault("H", "computer", R"({"here": true})"));
        QVERIFY(device("H").health().lines.at("usb 1").find("in a call") == 0);
    }
    void aWallOpensInACall() {
        auto& e = device("E");
        std::string path;
        for (const auto& b : demo_.device("heddle-8-rack-a")->program->blocks)
            if (b.marks.count("wall-switch") && b.id.find("reference") == std::string::npos)
                path = b.id + ".1";
        QCOMPARE(*e.get(path), 1.0);
        QTRY_VERIFY_WITH_TIMEOUT(!e.health().mutes.at("tern") && !e.health().mutes.at("plover"), 20000);
        device("A").pressButton();
        QTRY_VERIFY_WITH_TIMEOUT(e.health().mutes.at("tern"), 20000);
        QVERIFY(!e.health().mutes.at("plover") && !device("B").health().mutes.at("self"));
        QVERIFY(fault("*", "wall", R"({"fold": "open"})"));
        QCOMPARE(*e.get(path), 5.0);
        QVERIFY(!e.set(path, 1, "somebody") && !e.state().running->turned);
        QTRY_VERIFY_WITH_TIMEOUT(e.health().mutes.at("plover") && device("B").health().mutes.at("self"),
                                 20000); // one room, one mute
        device("B").pressButton();
        QTRY_VERIFY_WITH_TIMEOUT(!e.health().mutes.at("tern") && !device("A").health().mutes.at("self"), 20000);
        QVERIFY(rig_->air()->walls().count("fold") == 1 && e.health().contacts.at("contact 1") == false);
        QVERIFY(fault("*", "wall", R"({"fold": "closed"})"));
        QCOMPARE(*e.get(path), 1.0);
        device("B").pressButton();
        QTRY_VERIFY_WITH_TIMEOUT(device("B").health().mutes.at("self"), 20000);
        QVERIFY(!device("A").health().mutes.at("self"));
        QVERIFY(!fault("*", "wall", R"({"fold": "ajar"})") && !fault("*", "wall", "3"));
        // A program that is told anew stands as the wall does.
        QVERIFY(fault("*", "wall", R"({"fold": "open"})"));
        QVERIFY(bool(e.tryConfig(e.running(), "test")));
        QCOMPARE(*e.get(path), 5.0);
    }
};
LOOM_TEST(tst_calls, TestCalls)
#include "tst_calls.moc"
