// Outside devices: what rules set reaches them, what they answer is known, and whatever they do else harms nobody.
#ifndef Q_MOC_RUN
#include "../rules/rules_demo.h"
#include "lines/outside_line.h"
#include "outside/osc.h"
#include "outside/outside_edit.h"
#include "rig/rig.h"
#include <nlohmann/json.hpp>
#endif
#include "test.h"
#include <QElapsedTimer>
#include <QNetworkDatagram>
#include <QProcess>
#include <QStandardPaths>
#include <QTemporaryDir>
#include <QUdpSocket>

using namespace loom;
using namespace loom::project;
using nlohmann::json;

class TestOutside : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;
    Project p_;
    std::unique_ptr<rig::Rig> rig_;

    rig::Device& box() { return rig_->server("BOX")->device(); }
    double is(const char* device, const char* state) { return rig_->standIn(device)->state(state); }
    std::optional<double> known(const std::string& path) { return box().outside().value("outside:" + path); }
    bool noted(const char* who, const char* words) {
        for (const auto& e : box().store().log())
            if (e.who == who && e.what.find(words) != std::string::npos)
                return true;
        return false;
    }
    void fault(const char* device, const char* how) { QVERIFY(rig_->setFault("*", "outside", {{device, how}})); }

  private slots:
    void initTestCase() {
        p_ = test::rulesProject();
        const auto add = [&](const char* name, const char* kind, const char* address) {
            const auto e = addOutside(p_, name, kind, "oak", address);
            QVERIFY2(bool(e), e ? "" : e.error().text().c_str());
            p_ = *e->make(p_);
        };
        add("Display", "display-lines", "127.20.35.40:46601");
        add("Projector", "projector-bytes", "/dev/ttyS7");
        add("Blinds", "blinds-packets", "127.20.35.42:46612");
        add("Lights", "lights-http", "127.20.35.43:46603");
        add("Camera", "camera-osc", "127.20.35.44:46624");
        add("Desk", "wake-on-lan", "02:00:00:00:00:2a");
        test::addRule(
            p_, "on",
            "when Box · contact 1 becomes closed\nthen set Display · Power to on\nthen set Display · Volume (%) to 35\n"
            "then set Projector · Power to on\nthen set Blinds · Closed (%) to 60\nthen set Lights · Level (%) to 25\n"
            "then set Camera · View to lectern");
        test::addRule(p_, "warm", "when Projector · Power becomes on\nthen set Box · Speech · Level to -6");
        test::addRule(p_, "lost", "when device Display becomes lost\nthen set Box · Music · Level to -60");
        for (std::size_t i = 0; i < p_.rules.size(); ++i)
            p_.rules.change(i).room = "oak";
        rig_ = std::make_unique<rig::Rig>(test::models(), 47350);
        const auto scenario = site::scenarioFromJson(json::parse(
            R"({"devices": [{"serial": "BOX", "model": "heddle-16", "address": "127.20.35.1", "as": "box"}]})"));
        QVERIFY(rig_->open().isEmpty());
        const auto done = rig_->play(*scenario, &p_, nullptr, folder_.path().toStdString());
        QVERIFY2(bool(done), done ? "" : done.error().text().c_str());
        for (const char* id : {"display", "projector", "blinds", "lights", "camera"})
            QVERIFY2(rig_->standIn(id), id);
    }
    void theyAreAskedHowTheyAre() {
        for (const char* id : {"display", "projector", "blinds", "lights", "camera", "desk"})
            QTRY_VERIFY2_WITH_TIMEOUT(known(std::string(id) + "/there") == 1, id, 5000);
        QTRY_COMPARE_WITH_TIMEOUT(known("display/volume"), std::optional(20.0), 5000);
        QTRY_COMPARE_WITH_TIMEOUT(known("projector/hours"), std::optional(1234.0), 5000);
        QTRY_COMPARE_WITH_TIMEOUT(known("camera/view"), std::optional(0.0), 5000);
        QCOMPARE(known("display/power"), std::optional(0.0));
        QVERIFY(!known("display/nothing") && !known("nobody/power"));
    }
    void aRuleSetsThem() {
        QVERIFY(box().setContact("contact 1", true));
        QTRY_COMPARE_WITH_TIMEOUT(is("display", "power"), 1.0, 5000);
        QTRY_COMPARE_WITH_TIMEOUT(is("display", "volume"), 35.0, 5000);
        QTRY_COMPARE_WITH_TIMEOUT(is("lights", "level"), 25.0, 5000);
        QTRY_COMPARE_WITH_TIMEOUT(is("camera", "view"), 3.0, 5000);
        QTRY_COMPARE_WITH_TIMEOUT(is("blinds", "closed"), 60.0, 8000);
        QTRY_COMPARE_WITH_TIMEOUT(known("blinds/closed"), std::optional(60.0), 5000); // where it has arrived
        // The lamp warms up before it is on, and a rule waits for that.
        QTRY_COMPARE_WITH_TIMEOUT(*box().get("speech.gain"), -6.0, 8000);
        QCOMPARE(is("projector", "power"), 2.0);
    }
    void whatTheyDoElseHarmsNobody() {
        // Silent: asked again, then lost; a rule hears of it. Back: known again.
        fault("display", "silent");
        (void)box().outside().set("outside:display/input", 2);
        QTRY_COMPARE_WITH_TIMEOUT(*box().get("music.gain"), -60.0, 12000);
        QVERIFY(noted("Display", "does not answer"));
        fault("display", "good");
        QTRY_COMPARE_WITH_TIMEOUT(known("display/there"), std::optional(1.0), 12000);
        // Rubbish, and a megabyte at once: said, not taken, and the others go on.
        for (const char* how : {"rubbish", "flood"}) {
            fault("lights", how), fault("projector", how), fault("blinds", how);
            (void)box().outside().set("outside:lights/level", how[0] == 'r' ? 40 : 50);
            QTRY_COMPARE_WITH_TIMEOUT(is("lights", "level"), how[0] == 'r' ? 40.0 : 50.0, 5000);
        }
        QTRY_VERIFY_WITH_TIMEOUT(noted("Lights", "description does not know") || noted("Lights", "more than 4,096"),
                                 5000);
        QTRY_VERIFY_WITH_TIMEOUT(known("projector/there") == 0, 12000);
        fault("projector", "good"), fault("lights", "good"), fault("blinds", "good");
        QTRY_COMPARE_WITH_TIMEOUT(known("projector/there"), std::optional(1.0), 12000);
        QVERIFY(!rig_->setFault("*", "outside", {{"display", "angry"}}) &&
                !rig_->setFault("*", "outside", {{"x", "good"}}));
    }
    // Somebody else's tool hears what a camera would.
    void oscIsHeardByOthers() {
        const auto dump = QStandardPaths::findExecutable("oscdump");
        QVERIFY(!dump.isEmpty());
        QProcess hears;
        hears.start(dump, {"46650"});
        QVERIFY(hears.waitForStarted());
        OutsideKind kind = *p_.outsideKind("camera-osc");
        const auto line =
            lines::openOutsideLine(kind, {"127.0.0.1", 46650}, {[](bool) {}, {}, [](const std::string&) {}, {}}, true);
        QByteArray said;
        QElapsedTimer t;
        for (t.start(); t.elapsed() < 5000 && !said.contains("lectern");) {
            line->send("/camera/view i:3 f:0.5 s:\"the lectern\"");
            QTest::qWait(50);
            said += hears.readAllStandardOutput();
        }
        hears.kill();
        hears.waitForFinished();
        QVERIFY2(said.contains("/camera/view ifs 3 0.500000 \"the lectern\""), said);
    }
    void aComputerIsWoken() {
        QUdpSocket heard;
        if (!heard.bind(QHostAddress("127.255.255.255"), 9,
                        QAbstractSocket::ShareAddress | QAbstractSocket::ReuseAddressHint))
            QSKIP("port 9 is taken, or not ours");
        QVERIFY(box().outside().set("outside:desk/wake", 1));
        QTRY_VERIFY_WITH_TIMEOUT(heard.hasPendingDatagrams(), 3000);
        const auto packet = heard.receiveDatagram().data();
        QCOMPARE(packet.size(), 102);
        QCOMPARE(packet.left(12).toHex(), QByteArray("ffffffffffff02000000002a"));
        QVERIFY(packet.endsWith(QByteArray::fromHex("02000000002a")));
    }
};

LOOM_TEST(tst_outside_rig, TestOutside)
#include "tst_outside_rig.moc"
