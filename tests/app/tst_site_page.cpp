// Site driven by events alone: the first day on a site, pairing by hand, lines that are slow, sealed rooms.
#include "app/shell/rail.h"
#include "app/site/device_panel.h"
#include "app/site/health_board.h"
#include "models.h"
#include "site_test.h"
#include "test.h"
#include <QComboBox>
#include <QLabel>
#include <QScrollBar>
#include <QTcpServer>
#include <QTcpSocket>

class TestSitePage : public SiteTest {
    Q_OBJECT

    // One device that runs the design, and keeps it if asked to.
    void oneTried(bool kept) {
        smallRig(1);
        fleet().pairAll({site::PairBy::position});
        QTRY_VERIFY_WITH_TIMEOUT(up("tap-0"), 10000);
        click("tryIt");
        QTRY_VERIFY_WITH_TIMEOUT(same("tap-0"), 10000);
        if (!kept)
            return;
        click("keep");
        QTRY_VERIFY_WITH_TIMEOUT(member("tap-0")->kept() && !fleet().work().running(), 10000);
    }

  private slots:
    void initTestCase() { beginAll(); }
    void init() { beginSite(); }
    void cleanup() { endSite(); }
    void firstDay() {
        rig_ = std::make_unique<EmbeddedRig>(loom::test::models(),
                                             std::string(LOOM_SOURCE_DIR "/demo/scenarios/first-day.json"),
                                             store_->path().toStdString());
        const auto p = loom::test::load(LOOM_SOURCE_DIR "/demo/first-day");
        QVERIFY(bool(p));
        open(*p, "first-day");
        // One plain question first: which adapter.
        if (auto* adapter = page()->findChild<QPushButton*>("adapter.127.20.4.0/24"); adapter && adapter->isVisible())
            QTest::mouseClick(adapter, Qt::LeftButton);
        else
            click("Look again");
        QTRY_COMPARE_WITH_TIMEOUT(fleet().found().size(), std::size_t(11), 10000);
        // Duplicate addresses, and one of another network.
        click("cure.address-shared.1177B4");
        click("cure.wrong-subnet.1177D2");
        QTRY_VERIFY_WITH_TIMEOUT(!wrong("address-shared") && !wrong("wrong-subnet"), 10000);
        // 9 of the 11 are paired: by model and name, and what their addresses tell.
        click("pairAll");
        QTRY_COMPARE_WITH_TIMEOUT(fleet().members().size(), std::size_t(9), 5000);
        for (const auto* m : fleet().members())
            QTRY_VERIFY2_WITH_TIMEOUT(up(m->device), m->device.c_str(), 10000);
        // One dies and is replaced.
        step("a canopy dies");
        click("cure.lost.plover-canopy", 25000);
        QTRY_VERIFY_WITH_TIMEOUT(member("plover-canopy")->serial == "1177D2" && up("plover-canopy"), 10000);
        // Firmware is offered, and can wait.
        answer("not before the opening");
        click("later.firmware.52E1");
        QTRY_COMPARE_WITH_TIMEOUT(project().dismissed.size(), std::size_t(1), 5000);
        QCOMPARE(project().dismissed[0].because, std::string("not before the opening"));
        // One value changed on both sides: Try says so and sends nothing.
        click("tabDifferences");
        const std::string conflict = "far-end.level.gain";
        const auto rowOf = [&](const std::string& key) -> const site::Row* {
            for (const auto& r : member("heddle")->rows)
                if (r.key == key)
                    return &r;
            return nullptr;
        };
        QTRY_VERIFY_WITH_TIMEOUT(rowOf(conflict) && rowOf(conflict)->conflict(), 5000);
        QCOMPARE(rowOf(conflict)->take, Take::open);
        QCOMPARE(rowOf("delegate-3.eq.2.gain")->take, Take::design);
        QCOMPARE(rowOf("ceiling-2.eq.1.gain")->take, Take::device);
        click("tryIt");
        QVERIFY2(said_.contains("choose a side"), qPrintable(said_));
        QVERIFY(member("council-tap") == nullptr && member("tern-tap")->runningRevision() < 0);
        pickSide("heddle", conflict, Take::device);
        QCOMPARE(rowOf(conflict)->take, Take::device);
        pickSide("heddle", conflict, Take::design);
        QCOMPARE(rowOf(conflict)->take, Take::design);
        // What will be heard is told before, and no longer once it is heard.
        auto* heard = page()->findChild<QLabel*>("willBeHeard");
        click("audible");
        QTRY_VERIFY_WITH_TIMEOUT(!heard->isHidden() && heard->text().contains("dB"), 10000);
        // Try, keep.
        click("tryIt");
        for (const auto* m : fleet().members())
            QTRY_VERIFY2_WITH_TIMEOUT(same(m->device), m->device.c_str(), 15000);
        QTRY_VERIFY_WITH_TIMEOUT(heard->isHidden(), 3000);
        const auto& program = *project().device("heddle")->program;
        QCOMPARE(program.find("far-end.level")->values.at("gain"), -4.5);
        QCOMPARE(program.find("ceiling-2.eq")->values.at("1.gain"),
                 -1.0); // what was turned at the device is the design now
        QCOMPARE(program.find("delegate-3.eq")->values.at("2.gain"), -6.0);
        click("keep");
        for (const auto* m : fleet().members())
            QTRY_VERIFY2_WITH_TIMEOUT(member(m->device)->kept(), m->device.c_str(), 15000);
        // Seal all.
        click("tabSeal");
        typeInto(page()->findChild<QLineEdit*>("password"), "tall grass by the sea");
        typeInto(page()->findChild<QLineEdit*>("passwordAgain"), "tall grass by the sea");
        click("seal");
        for (const auto* m : fleet().members())
            QTRY_VERIFY2_WITH_TIMEOUT(member(m->device)->sealed && !member(m->device)->locked, m->device.c_str(),
                                      20000);
        QVERIFY(!project::toJson(project()).dump().empty() &&
                project::toJson(project()).dump().find("tall grass") == std::string::npos);
        // Power cut.
        step("power cut");
        QTRY_COMPARE_WITH_TIMEOUT(page()->stateWord(), QString("Connection lost"), 15000);
        for (const auto* m : fleet().members())
            QTRY_VERIFY2_WITH_TIMEOUT(!well(m->device), m->device.c_str(), 10000);
        step("power returns");
        step("the dead one stays dead");
        for (const auto* m : fleet().members())
            QTRY_VERIFY2_WITH_TIMEOUT(well(m->device), m->device.c_str(), 30000);
        QTRY_COMPARE_WITH_TIMEOUT(page()->stateWord(), QString("On site 9 of 9"), 5000);
        QVERIFY(fleet().log().matching("Sealed", false).size() >= 9);
    }
    void threadsAreDrawnByHand() {
        smallRig(3);
        auto* view = page()->pairing();
        dragOn(view->viewport(), view->plannedEnd("tap-0"), view->foundEnd("T2") + QPointF(30, 0));
        QTRY_VERIFY_WITH_TIMEOUT(up("tap-0") && member("tap-0")->serial == "T2", 10000);
        dragOn(view->viewport(), view->foundEnd("T0"), view->plannedEnd("tap-1") - QPointF(30, 0)); // the other way
        QTRY_VERIFY_WITH_TIMEOUT(up("tap-1") && member("tap-1")->serial == "T0", 10000);
        // Swapped, undone.
        choose("tap-0");
        QTest::mouseClick(view->viewport(), Qt::LeftButton, Qt::ControlModifier,
                          (view->plannedEnd("tap-1") - QPointF(40, 0)).toPoint());
        pick("swap the two chosen");
        QTRY_VERIFY_WITH_TIMEOUT(up("tap-0") && member("tap-0")->serial == "T0", 10000);
        session().undo();
        QTRY_COMPARE_WITH_TIMEOUT(member("tap-0")->serial, std::string("T2"), 5000);
        // The device's own button lights its card up.
        QTRY_VERIFY_WITH_TIMEOUT(up("tap-0"), 10000);
        fault("T2", "press", true);
        QTRY_VERIFY_WITH_TIMEOUT(member("tap-0")->pressed, 5000);
        // Holding a card lets it blink, letting go ends it.
        const auto at = (view->foundEnd("T2") + QPointF(30, 0)).toPoint();
        QTest::mousePress(view->viewport(), Qt::LeftButton, {}, at);
        const auto blinks = [&] {
            bool on = false;
            rig_->with([&](rig::Rig& r) { on = r.server("T2")->device().identifying(); });
            return on;
        };
        QTRY_VERIFY_WITH_TIMEOUT(blinks(), 5000);
        QTest::mouseRelease(view->viewport(), Qt::LeftButton, {}, at);
        QTRY_VERIFY_WITH_TIMEOUT(!blinks(), 5000);
        // Unpaired, it stays as planned.
        choose("tap-1");
        click("tabDevice");
        click("unpair");
        QVERIFY(!member("tap-1") && project().device("tap-1") && project().device("tap-1")->serial.empty());
        pick("put all found");
        QCOMPARE(project().devices.size(), std::size_t(3)); // T0 and T1 may stand for planned ones: nothing is added
    }
    void metForTheFirstTime() { // nothing is planned: all into the plan, all values from the devices
        smallRig(2);
        open(project::Project{}, "empty");
        fault("T0", "setUp", {{"lampLive", "green"}});
        click("Look again");
        QTRY_COMPARE_WITH_TIMEOUT(fleet().findings().size(), std::size_t(2), 10000);
        pick("put all found devices into the plan");
        QTRY_VERIFY_WITH_TIMEOUT(project().devices.size() == 2 && fleet().members().size() == 2, 5000);
        const auto id =
            fleet().members()[0]->serial == "T0" ? fleet().members()[0]->device : fleet().members()[1]->device;
        QTRY_VERIFY_WITH_TIMEOUT(up(id) && member(id)->rows.size() >= 1, 10000);
        click("take");
        QCOMPARE(project().device(id)->lampLive, std::string("green"));
        QTRY_VERIFY_WITH_TIMEOUT(member(id)->rows.empty(), 5000);
        session().undo();
        QVERIFY(project().device(id)->lampLive.empty());
    }
    void allOrNone() { // a store fails on one: no device keeps it
        smallRig(3);
        pick("pair by model");
        fleet().pairAll({site::PairBy::position});
        for (const char* id : {"tap-0", "tap-1", "tap-2"})
            QTRY_VERIFY_WITH_TIMEOUT(up(id), 10000);
        click("tryIt");
        for (const char* id : {"tap-0", "tap-1", "tap-2"})
            QTRY_VERIFY2_WITH_TIMEOUT(same(id), id, 10000);
        fault("T1", "store", "failing");
        click("keep");
        QTRY_VERIFY2_WITH_TIMEOUT(said_.contains("store"), qPrintable(said_), 10000);
        QTest::qWait(1500);
        for (const char* id : {"tap-0", "tap-1", "tap-2"})
            QVERIFY2(!member(id)->kept(), id);
        fault("T1", "store", "good");
        click("keep");
        for (const char* id : {"tap-0", "tap-1", "tap-2"})
            QTRY_VERIFY2_WITH_TIMEOUT(member(id)->kept(), id, 10000);
        // An earlier revision.
        choose("tap-0");
        click("tabDevice");
        const int first = member("tap-0")->keptRevision();
        auto* lamp = page()->findChild<QLineEdit*>("field.timeServer");
        QVERIFY(lamp);
        typeInto(lamp, "time.marram.example");
        QCOMPARE(project().device("tap-0")->setUp.at("timeServer"), std::string("time.marram.example"));
        click("tryIt");
        QTRY_VERIFY_WITH_TIMEOUT(member("tap-0")->runningRevision() > first && same("tap-0"), 10000);
        click("goBack");
        QTRY_COMPARE_WITH_TIMEOUT(member("tap-0")->runningRevision(), first, 10000);
        QTRY_VERIFY_WITH_TIMEOUT(member("tap-0")->rows.size() == 1, 10000);
    }
    void liveBothWaysOnASlowLine() { // 150 ms there and back, 2 % lost
        smallRig(2);
        fault("*", "delay", 150);
        fault("*", "loss", 0.02);
        fleet().pairAll({site::PairBy::position});
        for (const char* id : {"tap-0", "tap-1"})
            QTRY_VERIFY_WITH_TIMEOUT(up(id), 15000);
        click("tryIt");
        QTRY_VERIFY_WITH_TIMEOUT(same("tap-0") && same("tap-1"), 15000);
        click("live");
        choose("tap-0");
        click("tabDevice");
        typeInto(page()->findChild<QLineEdit*>("field.lampLive"), "green");
        const auto lamp = [&] {
            std::string now;
            rig_->with(
                [&](rig::Rig& r) { now = r.server(member("tap-0")->serial)->device().running().setUp.at("lampLive"); });
            return now;
        };
        QTRY_COMPARE_WITH_TIMEOUT(lamp(), std::string("green"), 10000);
        fault(member("tap-0")->serial, "setUp", {{"lampLive", "blue"}});
        QTRY_COMPARE_WITH_TIMEOUT(project().device("tap-0")->lampLive, std::string("blue"), 10000);
        QVERIFY(!fleet().log().matching("front panel blue", false).empty());
        // The cable comes out: it is shown, an edit waits, and is settled when the line is back.
        fault(member("tap-0")->serial, "cable", "out");
        QTRY_VERIFY_WITH_TIMEOUT(!member("tap-0")->link.up(), 15000);
        choose("tap-0");
        typeInto(page()->findChild<QLineEdit*>("field.lampLive"), "amber");
        QCOMPARE(member("tap-0")->rows.size(), std::size_t(1));
        fault(member("tap-0")->serial, "cable", "in");
        QTRY_VERIFY_WITH_TIMEOUT(
            up("tap-0") && member("tap-0")->rows.size() == 1 && member("tap-0")->rows[0].take == Take::design, 20000);
        QVERIFY(lamp() == "blue"); // nothing by itself
    }
    void editsWhileTryingAreKept() { // what is edited while a try is on its way is not overwritten by its end
        smallRig(1);
        fleet().pairAll({site::PairBy::position});
        QTRY_VERIFY_WITH_TIMEOUT(up("tap-0"), 10000);
        fault("*", "delay", 600);
        click("tryIt");
        QVERIFY(fleet().work().running());
        session().edit(project::changeDevice("tap-0", "lamp", [](project::Device& d) { d.lampLive = "violet"; }));
        QTRY_VERIFY_WITH_TIMEOUT(!fleet().work().running() && member("tap-0")->agreedRevision > 0, 10000);
        QCOMPARE(project().device("tap-0")->lampLive, std::string("violet"));
        QTRY_VERIFY_WITH_TIMEOUT(member("tap-0")->rows.size() == 1, 10000); // and shown as not yet sent
    }
    // A step that waits for a device ends once, whatever becomes of the device or the project meanwhile.
    void aStepEndsWhenADeviceGoes() {
        smallRig(2);
        fleet().pairAll({site::PairBy::position});
        QTRY_VERIFY_WITH_TIMEOUT(up("tap-0") && up("tap-1"), 10000);
        fault("*", "delay", 5000);
        click("tryIt");
        QVERIFY(fleet().work().running());
        fleet().unpair("tap-0");
        fault("T0", "delay", 0), fault("T1", "delay", 0);
        QTRY_VERIFY_WITH_TIMEOUT(!fleet().work().running(), 20000);
        QVERIFY2(said_.contains("went away") && said_.contains("No device was changed"), qPrintable(said_));
        QTRY_VERIFY_WITH_TIMEOUT(up("tap-1") && !same("tap-1"), 20000);
        click("tryIt"); // and the next may begin
        QTRY_VERIFY_WITH_TIMEOUT(same("tap-1"), 20000);
        fault("*", "delay", 5000);
        session().edit(project::changeDevice("tap-1", "lamp", [](project::Device& d) { d.lampLive = "violet"; }));
        click("tryIt");
        QVERIFY(fleet().work().running());
        project::Project other;
        other.name = "Another";
        open(other, "another");
        QTRY_VERIFY_WITH_TIMEOUT(!fleet().work().running(), 10000);
        fault("*", "delay", 0);
    }
    void undoAfterTryLeavesWhatWasTold() {
        smallRig(1);
        fleet().pairAll({site::PairBy::position});
        QTRY_VERIFY_WITH_TIMEOUT(up("tap-0"), 10000);
        session().edit(project::changeDevice("tap-0", "Lamp", [](project::Device& d) { d.lampLive = "violet"; }));
        click("tryIt");
        QTRY_VERIFY_WITH_TIMEOUT(same("tap-0"), 10000);
        const auto told = project().device("tap-0")->known;
        QVERIFY(told.setUp && told.setUp->at("lampLive") == "violet");
        QCOMPARE(session().history().undoText(), std::string("Lamp")); // trying is no step
        session().undo();
        QVERIFY(project().device("tap-0")->lampLive.empty() && project().device("tap-0")->known == told);
        QTRY_VERIFY_WITH_TIMEOUT(member("tap-0")->rows.size() == 1,
                                 10000); // it shows as not sent, by the design's side
        QCOMPARE(member("tap-0")->rows[0].take, Take::design);
    }
    void whatIsChangedLiveWhileKeepingIsNotTakenForKept() { // one has kept, another is slow, and the first is changed
        smallRig(2);
        fleet().pairAll({site::PairBy::position});
        for (const char* id : {"tap-0", "tap-1"})
            QTRY_VERIFY_WITH_TIMEOUT(up(id), 10000);
        click("tryIt");
        QTRY_VERIFY_WITH_TIMEOUT(same("tap-0") && same("tap-1") && !fleet().work().running(), 10000);
        click("live");
        fault("T1", "delay", 1500);
        click("keep");
        QTRY_VERIFY_WITH_TIMEOUT(fleet().work().running() && fleet().work().finished() == 1, 5000);
        session().edit(project::changeDevice("tap-0", "lamp", [](project::Device& d) { d.lampLive = "violet"; }));
        QTRY_COMPARE_WITH_TIMEOUT(member("tap-0")->agreed->setUp.at("lampLive"), std::string("violet"), 1000);
        QVERIFY(fleet().work().running());
        QTRY_VERIFY_WITH_TIMEOUT(!fleet().work().running(), 10000);
        fault("T0", "power", "off");
        QTRY_VERIFY_WITH_TIMEOUT(!up("tap-0") || !member("tap-0")->link.up(), 10000);
        fault("T0", "power", "on");
        QTRY_COMPARE_WITH_TIMEOUT(member("tap-0")->rows.size(), std::size_t(1), 15000);
        QCOMPARE(member("tap-0")->rows[0].take, Take::design);
        click("tryIt");
        QTRY_VERIFY_WITH_TIMEOUT(same("tap-0"), 10000);
        QCOMPARE(project().device("tap-0")->lampLive, std::string("violet"));
    }
    void goingBackDropsWhatWasChangedLive() { // under the same number: it is no change of somebody at the device
        oneTried(true);
        click("live");
        session().edit(project::changeDevice("tap-0", "lamp", [](project::Device& d) { d.lampLive = "violet"; }));
        QTRY_VERIFY_WITH_TIMEOUT(!member("tap-0")->kept(), 10000);
        fleet().goBack("tap-0", member("tap-0")->keptRevision());
        QTRY_COMPARE_WITH_TIMEOUT(member("tap-0")->rows.size(), std::size_t(1), 10000);
        QTRY_COMPARE_WITH_TIMEOUT(member("tap-0")->rows[0].take, Take::design, 3000);
        QCOMPARE(project().device("tap-0")->lampLive, std::string("violet"));
        // Somebody changes another value at the device then: that one is theirs, and the first is not.
        click("live");
        fault("T0", "setUp", {{"timeServer", "127.20.4.1"}});
        QTRY_COMPARE_WITH_TIMEOUT(member("tap-0")->rows.size(), std::size_t(2), 10000);
        QTest::qWait(1500); // asked how it is once more
        for (const auto& r : member("tap-0")->rows)
            QCOMPARE(r.take, r.key == "setUp/lampLive" ? Take::design : Take::device);
    }
    // Before the desk has asked how it is: nobody can tell whose is which.
    void aChangeAtTheDeviceRightBehindGoingBack() {
        oneTried(true);
        click("live");
        session().edit(project::changeDevice("tap-0", "lamp", [](project::Device& d) { d.lampLive = "violet"; }));
        QTRY_COMPARE_WITH_TIMEOUT(member("tap-0")->agreed->setUp.at("lampLive"), std::string("violet"), 2000);
        click("live");
        QTRY_VERIFY_WITH_TIMEOUT(member("tap-0")->turned(), 5000);
        fault("T0", "delay", 300);
        fleet().goBack("tap-0", member("tap-0")->runningRevision());
        QTest::qWait(200); // it has gone back, and the answer is on its way
        fault("T0", "setUp", {{"timeServer", "127.20.4.1"}});
        QTRY_COMPARE_WITH_TIMEOUT(member("tap-0")->rows.size(), std::size_t(2), 10000);
        QTest::qWait(2500);
        for (const auto& r : member("tap-0")->rows)
            QVERIFY2(r.take != (r.key == "setUp/lampLive" ? Take::device : Take::design), r.key.c_str());
    }
    void aChangeAtTheDeviceRightAfterALiveOneIsTheDevices() {
        oneTried(false);
        click("live");
        session().edit(project::changeDevice("tap-0", "lamp", [](project::Device& d) { d.lampLive = "violet"; }));
        QTRY_COMPARE_WITH_TIMEOUT(member("tap-0")->agreed->setUp.at("lampLive"), std::string("violet"), 2000);
        click("live");
        fault("T0", "setUp", {{"timeServer", "127.20.4.1"}}); // before the desk has asked how it is
        QTRY_COMPARE_WITH_TIMEOUT(member("tap-0")->rows.size(), std::size_t(1), 5000);
        QCOMPARE(member("tap-0")->rows[0].take, Take::device);
    }
    void sealedByAnother() {
        smallRig(2);
        fault("T0", "password", "tall grass by the sea");
        fleet().pairAll({site::PairBy::position});
        QTRY_VERIFY_WITH_TIMEOUT(member("tap-0") && member("tap-0")->locked, 10000);
        QTRY_COMPARE_WITH_TIMEOUT(session().health().at("tap-0").word, std::string("sealed"), 5000);
        click("tabSeal");
        auto* password = page()->findChild<QLineEdit*>("password");
        password->setText("tall gras");
        click("unlock");
        QTRY_VERIFY_WITH_TIMEOUT(said_.contains("wrong"), 10000);
        QVERIFY(member("tap-0")->locked);
        typeInto(password, "tall grass by the sea");
        QTRY_VERIFY_WITH_TIMEOUT(!member("tap-0")->locked && up("tap-0"), 10000);
        password->setText("tall grass by the sea");
        click("unseal");
        QTRY_VERIFY_WITH_TIMEOUT(!member("tap-0")->sealed, 10000);
        QVERIFY(password->text().isEmpty());
    }
    void anImpostorIsNotTalkedTo() {
        smallRig(1);
        fleet().pairAll({site::PairBy::position});
        QTRY_VERIFY_WITH_TIMEOUT(up("tap-0"), 10000);
        session().edit(project::changeDevice("tap-0", "another identity", [](project::Device& d) {
            d.known.identity = site::keyText(site::newKeys().open);
        }));
        fault("T0", "power", "off");
        QTRY_VERIFY_WITH_TIMEOUT(!member("tap-0")->link.up(), 10000);
        session().edit(project::changeDevice("tap-0", "unpair and pair", [](project::Device& d) { d.serial.clear(); }));
        fault("T0", "power", "on");
        session().undo();
        QTRY_VERIFY2_WITH_TIMEOUT(said_.contains("another device"), qPrintable(said_), 20000);
        QVERIFY(!member("tap-0")->link.up());
    }
    void typedMistakes() {
        smallRig(1);
        auto* range = page()->findChild<QComboBox*>("range");
        range->setEditText("the cellar");
        click("Look again");
        QVERIFY2(said_.contains("no adapter"), qPrintable(said_));
        range->setEditText("127.20.4.0/24");
        click("Look again");
        fleet().addAddress("two words");
        QVERIFY2(said_.contains("no address"), qPrintable(said_));
        page()->pairing()->chooseFound("T0");
        click("tabDevice");
        answer("127.20.4.999");
        click("otherAddress");
        QTRY_VERIFY2(said_.contains("not an address"), qPrintable(said_));
        answer("127.20.4.99");
        click("otherAddress");
        QTRY_COMPARE_WITH_TIMEOUT(fleet().found()[0].address, std::string("127.20.4.99"), 10000);
    }
    void healthBoardAndEvents() {
        smallRig(3);
        fleet().pairAll({site::PairBy::position});
        for (const char* id : {"tap-0", "tap-1", "tap-2"})
            QTRY_VERIFY_WITH_TIMEOUT(up(id), 10000);
        fault("T2", "temperature", 82);
        click("tabHealth");
        auto* board = page()->health()->table();
        QTRY_VERIFY_WITH_TIMEOUT(board->rowCount() == 3 && board->text(0, HealthBoard::word).startsWith("hot"), 10000);
        QCOMPARE(board->text(0, HealthBoard::temperature), QString("82 \u00b0C"));
        QTest::mouseClick(board->viewport(), Qt::LeftButton, {},
                          board->visualRect(board->model()->index(0, 0)).center());
        QCOMPARE(page()->pairing()->chosen(), std::vector<std::string>{"tap-2"});
        click("tabEvents");
        typeInto(page()->findChild<QLineEdit*>("searchLog"), "warm");
        auto* log = page()->findChild<SiteTable*>("log");
        QTRY_COMPARE(log->rowCount(), 1);
        const QString file = folder_.filePath("events.csv");
        answerFile(file);
        click("saveLog");
        QFile csv(file);
        QVERIFY(csv.open(QIODevice::ReadOnly) && csv.readAll().contains("82"));
    }
    void tablesMakeTheCellsInSightOnly() {
        SiteTable table({"One", "Two"}, "table", "A long table");
        table.resize(300, 200);
        table.show();
        QVERIFY(QTest::qWaitForWindowExposed(&table));
        std::set<int> made;
        const auto fill = [&](int rows, const QString& word) {
            table.fill(rows, [&made, word](int row, int column) {
                made.insert(row);
                return SiteCell{QString("%1 %2/%3").arg(word).arg(row).arg(column), {}, column == 1};
            });
        };
        fill(1000, "a");
        QTest::qWait(50);
        (void)table.grab();
        QVERIFY2(made.size() < 40, qPrintable(QString::number(made.size())));
        QVERIFY(made.count(2) && !made.count(500));
        table.verticalScrollBar()->setValue(500);
        (void)table.grab();
        QVERIFY(made.count(502));
        QCOMPARE(table.text(999, 1), QString("a 999/1")); // whoever asks is told, in sight or not
        // A choice stays through other words, and goes with its row.
        table.selectRow(501);
        fill(1000, "b");
        QCOMPARE(table.text(501, 0), QString("b 501/0"));
        QCOMPARE(table.currentRow(), 501);
        fill(3, "c");
        QCOMPARE(table.rowCount(), 3);
        QVERIFY(table.selectionModel()->selectedRows().isEmpty());
        QCOMPARE(table.text(501, 0), QString());
    }
    void largeTextAndNight() {
        smallRig(3);
        Theme::get().setPercent(200);
        QVERIFY(w_->width() == 1280 && w_->height() == 800);
        QVERIFY(w_->minimumSizeHint().width() <= 1280);
        QVERIFY(page()->pairing()->height() > 100);
        Theme::get().setNight(true);
        QVERIFY(!w_->grab().isNull());
        Theme::get().setNight(false);
    }
};
LOOM_TEST(tst_site_page, TestSitePage)
#include "tst_site_page.moc"
