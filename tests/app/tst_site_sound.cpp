// Site driven by events alone: small boards and their knobs, keys of the sound between devices, tones, alarms.
#include "app/shell/rail.h"
#include "app/site/device_panel.h"
#include "app/site/knob_grid.h"
#include "models.h"
#include "site_test.h"
#include "test.h"
#include <QComboBox>
#include <QFile>
#include <QLineEdit>
#include <QSignalSpy>

class TestSiteSound : public SiteTest {
    Q_OBJECT

    // The demo's cellar board on a USB socket.
    void boardRig() {
        auto demo = loom::test::load(LOOM_HALL);
        project::Project p;
        p.devices = {*demo->device("spindle-cellar")};
        p.devices.change(0).setUp.clear(), p.devices.change(0).room.clear();
        rig_ = std::make_unique<EmbeddedRig>(loom::test::models(), p, store_->path().toStdString());
        open(p, "cellar");
        click("Look again");
        QTRY_COMPARE_WITH_TIMEOUT(fleet().found().size(), std::size_t(1), 10000);
        click("pairAll");
        QTRY_VERIFY_WITH_TIMEOUT(up("spindle-cellar"), 10000);
        serial_ = member("spindle-cellar")->serial;
        choose("spindle-cellar");
        click("tabDevice");
    }
    std::string setUp(const std::string& id) { return project::setUpOf(*project().device("spindle-cellar")).at(id); }
    template <class W> W* part(const QString& name) { return page()->findChild<W*>(name); }
    std::string serial_;

  private slots:
    void initTestCase() { beginAll(); }
    void init() { beginSite(); }
    void cleanup() { endSite(); }
    void boardsTakeImagesAndKnobs() {
        boardRig();
        QVERIFY(fleet().found()[0].address.starts_with("127.47.10."));
        QVERIFY(!wrong("wrong-subnet") && !part<QPushButton>("otherAddress")->isVisible());
        // By turning it now.
        auto* next = part<QComboBox>("knobTarget");
        QTRY_VERIFY(next->isVisible() && next->count() > 10);
        next->setCurrentIndex(next->findData("main-l.level.gain"));
        click("turnNow");
        QVERIFY(part<QPushButton>("turnNow")->isChecked());
        fault(serial_, "knob", {{"knob 2", 0.4}});
        QTRY_COMPARE_WITH_TIMEOUT(setUp("knob 2"), std::string("main-l.level.gain -80..12"), 5000);
        QVERIFY(!part<QPushButton>("turnNow")->isChecked());
        // By choosing, with a range that is typed and a way of travelling.
        auto* target = part<QComboBox>("knob 1 target");
        target->setFocus();
        target->setCurrentIndex(target->findData("main-r.level.gain"));
        emit target->activated(target->currentIndex());
        auto* from = part<QLineEdit>("knob 1 from");
        from->selectAll();
        QTest::keyClicks(from, "-40");
        QTest::keyClick(from, Qt::Key_Return);
        QCOMPARE(setUp("knob 1"), std::string("main-r.level.gain -40..12"));
        from->selectAll();
        QTest::keyClicks(from, "-400");
        QTest::keyClick(from, Qt::Key_Return);
        QVERIFY(!said_.isEmpty());
        QCOMPARE(setUp("knob 1"), std::string("main-r.level.gain -40..12"));
        // Undone like everything else.
        session().undo();
        QCOMPARE(setUp("knob 1"), std::string("main-r.level.gain -80..12"));
        session().redo();
        // Told to the board, kept and read back; then a knob moves what it should.
        click("tryIt");
        QTRY_VERIFY_WITH_TIMEOUT(same("spindle-cellar"), 10000);
        click("keep");
        QTRY_VERIFY_WITH_TIMEOUT(member("spindle-cellar")->kept() && !fleet().work().running(), 10000);
        fault(serial_, "knob", {{"knob 1", 0.5}});
        QTRY_COMPARE_WITH_TIMEOUT(member("spindle-cellar")->rows.size(), std::size_t(1), 10000);
        QCOMPARE(member("spindle-cellar")->rows[0].key, std::string("main-r.level.gain"));
        rig_->with([&](rig::Rig& r) { QCOMPARE(*r.server(serial_)->device().get("main-r.level.gain"), -14.0); });
        fault(serial_, "power", "off");
        fault(serial_, "power", "on");
        QTRY_VERIFY_WITH_TIMEOUT(same("spindle-cellar"), 15000); // what is kept
    }
    void aStoreThatLiesIsFound() {
        boardRig();
        click("tryIt");
        QTRY_VERIFY_WITH_TIMEOUT(same("spindle-cellar"), 10000);
        fault(serial_, "store", "corrupt");
        click("keep");
        QTRY_VERIFY2_WITH_TIMEOUT(said_.contains("read back"), qPrintable(said_), 10000);
        QTRY_VERIFY_WITH_TIMEOUT(!member("spindle-cellar")->kept(), 5000);
        fault(serial_, "store", "good");
        click("keep");
        QTRY_VERIFY_WITH_TIMEOUT(member("spindle-cellar")->kept(), 10000);
    }
    void aProgramTooLongForItsStoreIsNotSent() {
        boardRig();
        auto p = *project().device("spindle-cellar")->program;
        for (int i = 0; i < 400; ++i) {
            engine::Block b;
            b.id = "filler-" + std::to_string(i), b.kind = "level";
            b.label = std::string(60, 'x');
            p.blocks.push_back(b);
        }
        session().edit(project::setProgram("spindle-cellar", p, "Fill it"));
        click("tryIt");
        QTRY_VERIFY2_WITH_TIMEOUT(said_.contains("bytes too long"), qPrintable(said_), 5000);
        QVERIFY(!fleet().work().running() && member("spindle-cellar")->runningRevision() < 0);
    }
    // Canopy and processor of a room: sealed, then their sound gets a key, another one, and none.
    void soundGetsAKey() {
        project::Project p;
        p.devices = {{}, {}, {}};
        for (std::size_t i = 0; i < 3; ++i)
            p.devices.change(i).models = loom::test::models();
        p.devices.change(0).id = "desk", p.devices.change(0).name = "Desk", p.devices.change(0).model = "heddle-16";
        p.devices.change(0).address = "127.20.4.70";
        p.devices.change(0).receivers = {{"mix", {"net 3"}, {"array/mix"}}};
        project::Stream mix;
        mix.id = mix.name = "mix", mix.ports = {"net 1"};
        p.devices.change(1).streams = {mix};
        p.devices.change(1).id = "array", p.devices.change(1).name = "Array", p.devices.change(1).model = "canopy-8";
        p.devices.change(1).address = "127.20.4.71";
        p.devices.change(2).id = "tap", p.devices.change(2).name = "Tap", p.devices.change(2).model = "tap";
        p.devices.change(2).address = "127.20.4.72";
        rig_ = std::make_unique<EmbeddedRig>(loom::test::models(), p, store_->path().toStdString());
        open(p, "sound");
        click("Look again");
        QTRY_COMPARE_WITH_TIMEOUT(fleet().found().size(), std::size_t(3), 10000);
        click("pairAll");
        for (const char* id : {"desk", "array", "tap"})
            QTRY_VERIFY_WITH_TIMEOUT(up(id), 10000);
        using How = site::SoundLink::How;
        const auto how = [&] { return fleet().soundLinks().at(0).how; };
        const auto heard = [&](const char* id) {
            std::string text;
            rig_->with([&](rig::Rig& r) {
                const auto all = r.server(member(id)->serial)->device().made().sound->heard();
                text = all.count("net 3") ? all.at("net 3") : "";
            });
            return text;
        };
        QTRY_COMPARE_WITH_TIMEOUT(how(), How::open, 5000);
        QTRY_COMPARE_WITH_TIMEOUT(heard("desk"), std::string("open"), 5000);
        click("tabSeal");
        QVERIFY(!part<QPushButton>("encryptSound")->isEnabled()); // not without the password
        QTest::keyClicks(part<QLineEdit>("password"), "salt and sand");
        QTest::keyClicks(part<QLineEdit>("passwordAgain"), "salt and sand");
        click("seal");
        QTRY_VERIFY_WITH_TIMEOUT(member("desk")->sealed && member("array")->sealed && !fleet().work().running(), 15000);
        click("encryptSound");
        QTRY_COMPARE_WITH_TIMEOUT(how(), How::encrypted, 10000);
        QTRY_COMPARE_WITH_TIMEOUT(heard("desk"), std::string("encrypted"), 5000);
        const auto first = member("desk")->audioKey;
        QVERIFY(first.size() == 8 && member("tap")->audioKey.empty()); // which carries no sound
        // A phrase gives the same key again; a store that fails on one leaves all with the key they had.
        QTest::keyClicks(part<QLineEdit>("phrase"), "short");
        click("encryptSound");
        QTRY_VERIFY2(said_.contains("12 to 200"), qPrintable(said_));
        fault(member("array")->serial, "store", "failing");
        click("encryptSound");
        QTRY_VERIFY2_WITH_TIMEOUT(said_.contains("has the key that it had"), qPrintable(said_), 10000);
        QTRY_VERIFY_WITH_TIMEOUT(member("desk")->audioKey == first && how() == How::encrypted, 5000);
        fault(member("array")->serial, "store", "good");
        // One of them alone: the way is silent, and said to be.
        choose("desk");
        QTest::keyClicks(part<QLineEdit>("phrase"), "over the hills");
        click("encryptSound");
        QTRY_COMPARE_WITH_TIMEOUT(how(), How::broken, 10000);
        QTRY_COMPARE_WITH_TIMEOUT(heard("desk"), std::string("refused"), 5000);
        choose("array");
        QTest::keyClicks(part<QLineEdit>("phrase"), "over the hills");
        click("encryptSound");
        QTRY_COMPARE_WITH_TIMEOUT(how(), How::encrypted, 10000);
        QTRY_COMPARE_WITH_TIMEOUT(heard("desk"), std::string("encrypted"), 5000);
        // It survives power-off, and nothing of it is in the project.
        fault("*", "power", "off");
        QTRY_COMPARE_WITH_TIMEOUT(how(), How::unknown, 10000);
        fault("*", "power", "on");
        QTRY_COMPARE_WITH_TIMEOUT(how(), How::encrypted, 20000);
        session().saveAs(folder_.filePath("sealed.loom"));
        QVERIFY(project::toJson(project()).dump().find("over the hills") == std::string::npos);
        QVERIFY(project::toJson(project()).dump().find(member("desk")->audioKey) == std::string::npos);
        page()->pairing()->choose({});
        click("openSound");
        QTRY_VERIFY2_WITH_TIMEOUT(how() == How::open, qPrintable(said_), 10000);
        QTRY_COMPARE_WITH_TIMEOUT(heard("desk"), std::string("open"), 5000);
    }
    void theRestIsPairedByPosition() {
        smallRig(3);
        click("pairRest");
        QTRY_COMPARE_WITH_TIMEOUT(fleet().members().size(), std::size_t(3), 5000);
        QCOMPARE(project().device("tap-1")->serial, std::string("T1"));
        QVERIFY(!part<QPushButton>("pairRest")->isVisible());
        session().undo();
        QTRY_VERIFY(project().device("tap-1")->serial.empty());
    }
    void aDeviceThatFallsIllIsSaid() {
        smallRig(2);
        click("pairRest");
        for (const char* id : {"tap-0", "tap-1"})
            QTRY_VERIFY_WITH_TIMEOUT(up(id), 10000);
        QSignalSpy alarms(&fleet(), &Fleet::alarm);
        fault("T1", "temperature", 82);
        QTRY_COMPARE_WITH_TIMEOUT(alarms.count(), 1, 10000);
        QVERIFY(alarms[0][0].value<std::string>().find("Tap 1") != std::string::npos && said_.contains("82"));
        fault("T1", "temperature", 0);
        QTest::qWait(2500);
        QCOMPARE(alarms.count(), 1); // getting well is no alarm
    }
    void anOutputSoundsATone() {
        boardRig();
        click("tryIt");
        QTRY_VERIFY_WITH_TIMEOUT(same("spindle-cellar"), 10000);
        const auto level = [&] {
            double db = -200;
            rig_->with([&](rig::Rig& r) {
                const auto m = r.server(serial_)->device().meters();
                db = m.count("main-l") ? m.at("main-l") : -200.0;
            });
            return db;
        };
        QVERIFY(level() < -100);
        click("tone");
        QTRY_VERIFY_WITH_TIMEOUT(level() > -32 && level() < -28, 5000);
        click("tone");
        QTRY_VERIFY_WITH_TIMEOUT(level() < -60, 5000);
        QVERIFY(same("spindle-cellar")); // nothing of what it is told has changed
    }
};

LOOM_TEST(tst_site_sound, TestSiteSound)
#include "tst_site_sound.moc"
