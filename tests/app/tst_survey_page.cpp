// Survey driven by keys and mouse: from nothing to a room that works, fields, table, drags, wall states, copies.
#include "app/field_form.h"
#include "app/shell/rail.h"
#include "app/survey/device_table.h"
#include "app/survey/drawing_panel.h"
#include "app/survey/model_form.h"
#include "app/survey/plan_view.h"
#include "app/survey/rack_view.h"
#include "app/survey/shelf.h"
#include "app/survey/side_view.h"
#include "app/survey/survey_deck.h"
#include "app/survey/survey_page.h"
#include "app/text.h"
#include "window_test.h"
#ifndef Q_MOC_RUN
#include "catalogue/catalogue.h"
#include "findings/room_findings.h"
#endif
#include "test.h"
#include <QClipboard>
#include <QComboBox>
#include <QDialog>
#include <QLabel>
#include <QListWidget>
#include <QTableWidget>

using namespace loom;
using namespace loom::app;

class TestSurveyPage : public WindowTest {
    Q_OBJECT

    PlanView* plan() { return view<SurveyPage>()->plan(); }
    SurveyState& state() { return view<SurveyPage>()->state(); }
    const SurveyResult& result() { return state().result(); }
    QPoint at(double x, double y) { return plan()->toView({x, y}).toPoint(); }
    void key(int k, Qt::KeyboardModifiers keys = {}) {
        activate();
        plan()->setFocus();
        QTest::keyClick(plan(), static_cast<Qt::Key>(k), keys);
    }
    void click(double x, double y, Qt::KeyboardModifiers keys = {}) {
        QTest::mouseClick(plan(), Qt::LeftButton, keys, at(x, y));
    }
    void drag(QPoint from, QPoint to) { dragOn(plan(), from, to); }
    // Says yes to the list of what would be done, after counting its lines.
    void approve(int* lines) {
        QTimer::singleShot(0, this, [lines] {
            auto* dialog = QApplication::activeModalWidget();
            QVERIFY(dialog && dialog->objectName() == "approve");
            *lines = dialog->findChild<QTableWidget*>()->rowCount();
            QTest::keyClick(dialog, Qt::Key_Return);
        });
    }
    FieldForm* form() { return w_->findChild<FieldForm*>("fieldForm"); }
    void type(const char* field, const QString& text) {
        typeInto(form()->findChild<QLineEdit*>(QString("field.") + field), text);
    }
    void openDemo() {
        WindowTest::openDemo();
        w_->showStage("survey");
        plan()->setFocus();
    }

  private slots:
    void initTestCase() { beginAll(); }
    void init() { begin("survey"); }
    void cleanup() { end(); }

    void keysThatAChoiceDoesNotTakeHarmNothing() { // they come to the form that holds it
        key(Qt::Key_R);
        drag(at(0, 0), at(12, 8));
        const auto before = project();
        auto* walls = form()->findChild<QComboBox*>("field.finish walls");
        for (const auto k : {Qt::Key_Escape, Qt::Key_F3, Qt::Key_Insert})
            QTest::keyClick(walls, k);
        auto* size = form()->findChild<QLineEdit*>("field.size");
        const QString shown = size->text();
        size->setText("nonsense");
        QTest::keyClick(size, Qt::Key_Escape);
        QCOMPARE(size->text(), shown);
        QCOMPARE(project().buildings[0].rooms[0].finishes, before.buildings[0].rooms[0].finishes);
    }
    // The whole way by events: room, seats, ceiling grid, array, map, target by a suggestion, copy, addresses.
    void fromNothingToARoomThatWorks() {
        key(Qt::Key_R);
        drag(at(0, 0), at(12, 8));
        QCOMPARE(project().buildings.size(), std::size_t(1));
        QCOMPARE(project().buildings[0].rooms[0].outline.size(), std::size_t(4));
        type("size", "12 x 8");
        const auto& room = [this]() -> const project::Room& { return project().buildings[0].rooms[0]; };
        QVERIFY(std::abs(acoustics::areaOf(room().outline) - 96) < 1e-6);
        type("height", "3");
        auto* walls = form()->findChild<QComboBox*>("field.finish walls");
        walls->setFocus();
        walls->setCurrentIndex(walls->findData("absorber-50"));
        emit walls->activated(walls->currentIndex());
        QCOMPARE(room().finishes.at("walls"), std::string("absorber-50"));

        plan()->setFocus();
        key(Qt::Key_S);
        click(6, 4);
        type("rows", "5");
        type("across", "8");
        type("pitch", "1.55"); // up to the walls
        type("rowPitch", "1.6");
        QCOMPARE(project::seatsOf(room()).size(), std::size_t(40));

        answer({"", "6"});
        press("ceilingGrid");
        QCOMPARE(project().devices.size(), std::size_t(6));
        QVERIFY(project().devices[0].place.z == 3 && project().devices[0].place.tilt == -90);

        auto* words = view<SurveyPage>()->shelf()->findChild<QLineEdit*>();
        words->setFocus();
        QTest::keyClicks(words, "array");
        QTest::keyClick(words, Qt::Key_Return);
        click(6.2, 4.4);
        key(Qt::Key_Escape);
        QCOMPARE(project().devices.size(), std::size_t(7));
        QCOMPARE(QString::fromStdString(project().devices[6].model), QString("canopy-8"));

        press("map.Level");
        QTRY_VERIFY_WITH_TIMEOUT(!state().map().values.empty() && !state().map().coarse, 10000);
        QVERIFY(state().map().values.size() > 4000);
        QTRY_VERIFY_WITH_TIMEOUT(result().figures && result().figures->seats == 40, 10000);
        QVERIFY(result().figures->eyring[4] > 0.1 && result().figures->worstSti > 0.3);

        state().choose({});
        type("within3", "99"); // more than six loudspeakers reach at these seats
        QTRY_VERIFY_WITH_TIMEOUT(result().figures && result().figures->levels.within3 < 0.99, 10000);
        QTRY_VERIFY_WITH_TIMEOUT(!result().suggestions.empty() && !state().busy(), 20000);
        press("suggestion.1");
        QTRY_VERIFY_WITH_TIMEOUT(result().figures && result().figures->levels.within3 >= 0.99, 20000);
        QVERIFY(project().devices.size() > 7);

        int lines = 0;
        answer({"Second room"}, [&] { approve(&lines); }); // first the name, then the list
        const auto devices = project().devices.size();
        press("copyRoom");
        QCOMPARE(project().buildings[0].rooms.size(), std::size_t(2));
        QCOMPARE(project().devices.size(), 2 * devices);
        QVERIFY(lines > static_cast<int>(devices));

        // Two devices with one address: a finding; the button resolves it.
        const std::string address = project().devices[6].address;
        std::string twin;
        for (const auto& d : project().devices)
            if (d.model == "canopy-8" && d.id != project().devices[6].id)
                twin = d.id;
        state().choose({"device:" + twin});
        type("address", QString::fromStdString(address));
        QCOMPARE(project().device(twin)->address, address);
        const auto clash = [&] {
            int n = 0;
            for (const auto& f : project::checkRooms(project()))
                n += f.id() == "same-address";
            return n;
        };
        QCOMPARE(clash(), 1);
        approve(&lines);
        press("addressAll");
        QCOMPARE(lines, 1);
        QCOMPARE(clash(), 0);

        // All of it can be taken back.
        int steps = 0;
        while (session().history().canUndo() && steps++ < 100)
            session().undo();
        QVERIFY(project().devices.empty() && project().buildings.empty());
    }
    void roomCornerByCorner() {
        key(Qt::Key_R);
        for (const auto& [x, y] : {std::pair{1.0, 1.0}, {7.0, 1.0}, {7.0, 4.0}, {4.0, 4.0}, {4.0, 6.0}, {1.0, 6.0}})
            click(x, y);
        click(1, 1); // the first again closes
        QCOMPARE(project().buildings[0].rooms[0].outline.size(), std::size_t(6));
        QVERIFY(std::abs(acoustics::areaOf(project().buildings[0].rooms[0].outline) - 24) < 1.5);
        key(Qt::Key_R);
        for (const auto& [x, y] : {std::pair{10.0, 1.0}, {14.0, 5.0}, {14.0, 1.0}, {10.0, 5.0}})
            click(x, y);
        key(Qt::Key_Return); // crossing walls are refused, with the reason
        QCOMPARE(project().buildings[0].rooms.size(), std::size_t(1));
        QVERIFY2(said_.contains("crosses"), qPrintable(said_));
        key(Qt::Key_Escape);
        answer("nonsense");
        key(Qt::Key_R, Qt::ShiftModifier);
        QVERIFY(said_.contains("no size"));
        answer("6 x 5 x 2.8");
        key(Qt::Key_R, Qt::ShiftModifier);
        QCOMPARE(project().buildings[0].rooms[1].height, 2.8);
    }
    void thingsAreDraggedNudgedAndRemoved() {
        openDemo();
        w_->showStage("survey");
        state().setRoom("tern");
        plan()->fitRoom();
        const auto& canopy = [this]() { return project().device("tern-canopy")->place; };
        const double x = canopy().x;
        drag(at(canopy().x, canopy().y), at(canopy().x + 1, canopy().y));
        QVERIFY(std::abs(canopy().x - x - 1) < 0.06);
        QVERIFY(state().isChosen("device:tern-canopy"));
        key(Qt::Key_Left);
        QVERIFY(std::abs(canopy().x - x - 0.9) < 0.06);
        const double fine = canopy().x;
        key(Qt::Key_Left, Qt::ShiftModifier);
        QVERIFY(std::abs(canopy().x - fine + 0.01) < 1e-9);
        session().undo(), session().undo(), session().undo();
        QCOMPARE(canopy().x, x);
        click(17.55, 2.6);
        click(21.65, 2.6, Qt::ControlModifier);
        QCOMPARE(state().chosen().size(), std::size_t(2));
        type("trim", "-3"); // goes to both
        QVERIFY(project().device("tern-ceiling-1")->trimDb == -3 && project().device("tern-ceiling-2")->trimDb == -3);
        plan()->setFocus();
        key(Qt::Key_D);
        QCOMPARE(state().chosen().size(), std::size_t(2));
        key(Qt::Key_Delete);
        QVERIFY(said_.contains("Ctrl+Z"));
        key(Qt::Key_Delete);
        QVERIFY(said_.contains("Choose something"));
        key(Qt::Key_Tab);
        QCOMPARE(state().chosen().size(), std::size_t(1));
        key(Qt::Key_A, Qt::ControlModifier);
        QVERIFY(state().chosen().size() > 5);
    }
    void tableIsTypedInto() {
        openDemo();
        state().setRoom("tern");
        auto* table = view<SurveyDeck>()->table();
        auto& rows = table->rows();
        const int row = rows.rowOf("tern-slate");
        QVERIFY(row >= 0);
        table->setCurrentIndex(rows.index(row, DeviceTableModel::name));
        QVERIFY(state().isChosen("device:tern-slate"));
        QVERIFY(rows.setData(rows.index(row, DeviceTableModel::position), "16, 5, 1.4", Qt::EditRole));
        QCOMPARE(project().device("tern-slate")->place.z, 1.4);
        QVERIFY(!rows.setData(rows.index(row, DeviceTableModel::position), "left of the door", Qt::EditRole));
        QVERIFY(said_.contains("x, y, z"));
        QVERIFY(!rows.setData(rows.index(row, DeviceTableModel::address), "1.2.3", Qt::EditRole));
        QVERIFY(said_.contains("no address"));
        QVERIFY(rows.setData(rows.index(row, DeviceTableModel::lamps), "white / amber", Qt::EditRole));
        QCOMPARE(project().device("tern-slate")->lampMuted, std::string("amber"));
        QVERIFY(rows.setData(rows.index(row, DeviceTableModel::address), "127.20.4.21", Qt::EditRole)); // the canopy's
        QTRY_VERIFY_WITH_TIMEOUT(
            rows.data(rows.index(row, DeviceTableModel::status), Qt::DisplayRole).toString().contains("127.20.4.21") ||
                rows.data(rows.index(rows.rowOf("council-canopy") < 0 ? row : rows.rowOf("council-canopy"),
                                     DeviceTableModel::status),
                          Qt::DisplayRole)
                    .toString()
                    .contains("127.20.4.21"),
            20000);
    }
    void wallStatesAndMaps() {
        openDemo();
        state().setRoom("tern");
        QTRY_VERIFY_WITH_TIMEOUT(result().figures && result().figures->seats == 24, 10000);
        press("state.joined");
        QTRY_VERIFY_WITH_TIMEOUT(result().figures && result().figures->seats == 48, 10000);
        for (const char* name :
             {"map.Level", "map.Direct", "map.Clarity", "map.STI", "map.Pick-up", "map.Stray", "map.Loudest"}) {
            press(name);
            const auto kind = state().mapKind();
            QTRY_VERIFY_WITH_TIMEOUT(state().map().kind == kind && !state().map().values.empty(), 10000);
            QVERIFY2(state().map().most >= state().map().least, name);
            plan()->grab();
        }
        press("map.Loudest"); // again: off
        QVERIFY(state().mapKind() == MapKind::none && state().map().values.empty());
        QTRY_VERIFY_WITH_TIMEOUT(!result().loops.empty() && !state().busy(), 20000);
    }
    void foundByWords() {
        openDemo();
        pick("room story cellar");
        QCOMPARE(QString::fromStdString(state().room()), QString("cellar"));
        pick("foyer height = 4.1");
        QCOMPARE(project().room("foyer")->height, 4.1);
        pick("foyer height = up");
        QVERIFY(said_.contains("does not fit"));
        pick("wall state joined");
        QVERIFY(state().wallState() && state().wallState()->id == "joined");
        pick("device column l");
        QVERIFY(state().isChosen("device:column-l"));
        QTest::keyClick(w_.get(), Qt::Key_2, Qt::ControlModifier);
        QTest::keyClick(w_.get(), Qt::Key_1, Qt::ControlModifier);
        QVERIFY(plan()->isVisible() && plan()->hasFocus());
    }
    void shelfIsSearchedByFigures() {
        auto* words = view<SurveyPage>()->shelf()->findChild<QLineEdit*>();
        auto* list = view<SurveyPage>()->shelf()->findChild<QListWidget*>("models");
        const auto names = [&] {
            QStringList all;
            for (int i = 0; i < list->count(); ++i)
                if (!list->item(i)->data(Qt::UserRole).toString().isEmpty())
                    all << list->item(i)->data(Qt::UserRole).toString();
            return all;
        };
        QVERIFY(names().size() >= 17);
        words->setText("ceiling 103 dB");
        QCOMPARE(names(), QStringList{"bobbin-c6"});
        words->setText("poe class 3");
        QVERIFY(names().contains("canopy-8") && names().contains("slate-10") && !names().contains("tap"));
        words->setText("accordion");
        QVERIFY(names().isEmpty());
    }
    void movableWallIsDrawn() {
        answer("8 x 6");
        key(Qt::Key_R, Qt::ShiftModifier);
        session().edit(project::setBuildings(
            *project::withRoom(project(), acoustics::rectangle({8.1, 0}, 8, 6), 3, "Second"), "Second"));
        plan()->fit();
        key(Qt::Key_W);
        drag(at(8.05, 0), at(8.05, 6));
        QCOMPARE(project().buildings[0].walls.size(), std::size_t(1));
        key(Qt::Key_W);
        drag(at(3, 1), at(3, 4));
        QVERIFY(said_.contains("no two rooms"));
    }
    void heightsFromTheSide() {
        openDemo();
        state().setRoom("tern");
        key(Qt::Key_E);
        auto* side = w_->findChild<SideView*>();
        QVERIFY(side->isVisible() && !plan()->isVisible());
        const auto& canopy = [this]() { return project().device("tern-canopy")->place; };
        const QPoint from = side->toView(canopy().x, canopy().z).toPoint(),
                     to = side->toView(canopy().x, 2.2).toPoint();
        QTest::mousePress(side, Qt::LeftButton, {}, from);
        QMouseEvent move(QEvent::MouseMove, to, side->mapToGlobal(to), Qt::NoButton, Qt::LeftButton, {});
        QApplication::sendEvent(side, &move);
        QTest::mouseRelease(side, Qt::LeftButton, {}, to);
        QVERIFY2(std::abs(canopy().z - 2.2) < 0.06, qPrintable(QString::number(canopy().z)));
        QTest::keyClick(side, Qt::Key_Up);
        QVERIFY(std::abs(canopy().z - 2.25) < 0.06);
        QVERIFY(!side->paintedParts().empty());
        QTest::keyClick(side, Qt::Key_E);
        QVERIFY(plan()->isVisible());
    }
    void racksFromTheFront() {
        openDemo();
        state().choose({"rack:rack-a"});
        auto* rack = w_->findChild<RackView*>();
        QVERIFY(rack->isVisible());
        const auto unit = [this] { return project().device("shuttle-8-stage")->place.unit; };
        QCOMPARE(unit(), 4);
        const QPoint from = rack->unitRect(4).center().toPoint(), to = rack->unitRect(1).center().toPoint();
        QTest::mousePress(rack, Qt::LeftButton, {}, from);
        QMouseEvent move(QEvent::MouseMove, to, rack->mapToGlobal(to), Qt::NoButton, Qt::LeftButton, {});
        QApplication::sendEvent(rack, &move);
        QTest::mouseRelease(rack, Qt::LeftButton, {}, to);
        QCOMPARE(unit(), 1);
        QVERIFY(state().isChosen("device:shuttle-8-stage"));
        QTest::keyClick(rack, Qt::Key_Up);
        QCOMPARE(unit(), 2);
        plan()->setModel("heddle-8"); // pressed on the rack it goes in there
        click(12.75, 16);
        QVERIFY(state().chosen().size() == 1 &&
                project().device(state().chosen()[0].substr(7))->place.rack == "rack-a");
        key(Qt::Key_Escape);
    }
    void copiedAndPasted() {
        openDemo();
        state().setRoom("plover");
        plan()->fitRoom();
        state().choose({"device:plover-ceiling-1", "device:plover-canopy"});
        key(Qt::Key_C, Qt::ControlModifier);
        const auto count = project().devices.size();
        key(Qt::Key_V, Qt::ControlModifier);
        QCOMPARE(project().devices.size(), count + 2);
        QCOMPARE(state().chosen().size(), std::size_t(2));
        session().undo();
        QGuiApplication::clipboard()->setText("a shopping list");
        key(Qt::Key_V, Qt::ControlModifier);
        QVERIFY(said_.contains("nothing of a plan"));
        QCOMPARE(project().devices.size(), count);
    }
    void readableAtTwiceTheText() {
        openDemo();
        Theme::get().setPercent(200);
        QApplication::processEvents();
        QVERIFY(plan()->width() > 300 && plan()->height() > 120);
        auto* shelf = w_->findChild<QPushButton*>("shelfButton");
        QVERIFY(shelf->isVisible());
        QTest::mouseClick(shelf, Qt::LeftButton);
        QVERIFY(view<SurveyPage>()->shelf()->isVisible());
    }
    void everyPartHasAName() {
        openDemo();
        for (const auto& part : plan()->paintedParts())
            QVERIFY(!part.name.isEmpty() && !part.value.isEmpty());
        plan()->choosePart(0);
        QCOMPARE(state().chosen().size(), std::size_t(1));
    }

    // -- the shelf and drawings --
    void modelMadeByForm() {
        openDemo();
        QTimer::singleShot(0, this, [this] {
            auto* form = qobject_cast<ModelForm*>(QApplication::activeModalWidget());
            QVERIFY(form);
            auto* done = form->findChild<QPushButton*>("toShelf");
            QVERIFY(!done->isEnabled()); // it has no name yet
            const auto put = [form](const char* field, const char* text) {
                auto* edit = form->findChild<QLineEdit*>(QString("field.") + field);
                QVERIFY2(edit, field);
                edit->setFocus();
                edit->selectAll();
                QTest::keyClicks(edit, text);
                QTest::keyClick(edit, Qt::Key_Return);
            };
            put("name", "Sunflower 8");
            put("sensitivity", "300");
            QVERIFY2(form->findChild<QLabel*>("says")->text().contains("40 to 130"),
                     qPrintable(form->findChild<QLabel*>("says")->text()));
            put("sensitivity", "91");
            put("horizontal", "360 360 280 200 150 110 90 70");
            auto* mount = form->findChild<QComboBox*>("field.mount");
            mount->setFocus();
            QTest::keyClicks(mount, "ceiling");
            emit mount->activated(mount->currentIndex());
            QVERIFY(done->isEnabled());
            QTest::mouseClick(done, Qt::LeftButton);
        });
        pick("make a model");
        const auto* made = session().models().find("sunflower-8");
        QVERIFY(made && made->own && made->loudspeaker->sensitivity == 91 && made->mount == "ceiling");
        auto* list = view<SurveyPage>()->shelf()->findChild<QListWidget*>("models");
        QVERIFY(!list->findItems("Sunflower 8", Qt::MatchContains).isEmpty());
    }
    void filesThroughTheWindow() {
        openDemo();
        QFile bad(folder_.filePath("bad.json"));
        QVERIFY(bad.open(QIODevice::WriteOnly) && bad.write("{\"id\": \"x\"}") > 0);
        bad.close();
        view<SurveyPage>()->readModelFile(bad.fileName());
        QVERIFY2(said_.contains("name"), qPrintable(said_));
        QFile dxf(folder_.filePath("floor.dxf"));
        QVERIFY(dxf.open(QIODevice::WriteOnly) &&
                dxf.write(
                    "0\nSECTION\n2\nENTITIES\n0\nLINE\n8\n0\n10\n0\n20\n0\n11\n5000\n21\n0\n0\nENDSEC\n0\nEOF\n") > 0);
        dxf.close();
        view<SurveyPage>()->readBackdrop(dxf.fileName());
        QTRY_COMPARE(q(project().buildings[0].backdrops.at(0).asset), QString("floor.dxf"));
        QVERIFY(project().assets.count("floor.dxf") && said_.contains("unit"));
        session().undo();
        QCOMPARE(q(project().buildings[0].backdrops.at(0).asset), QString("ground-floor.svg"));
        view<SurveyPage>()->readBackdrop(folder_.filePath("nothing.png"));
        QVERIFY(said_.contains("cannot be read"));
    }
    // A plan with blocks is dropped, two of its outlines become rooms.
    void roomsOfADrawing() {
        const auto pairs = [](const char* text) {
            QByteArray all;
            for (const auto& word : QByteArray(text).split(' '))
                if (!word.isEmpty())
                    all += word + "\n";
            return all;
        };
        QFile dxf(folder_.filePath("storey.dxf"));
        QVERIFY(dxf.open(QIODevice::WriteOnly));
        dxf.write(
            pairs("0 SECTION 2 HEADER 9 $INSUNITS 70 4 0 ENDSEC 0 SECTION 2 TABLES 0 LAYER 2 old 62 -3 70 0 0 ENDSEC "
                  "0 SECTION 2 BLOCKS 0 BLOCK 2 ROOM 10 0 20 0 0 LWPOLYLINE 8 walls 70 1 10 0 20 0 10 6000 20 0 10 "
                  "6000 20 5000 "
                  "10 0 20 5000 0 ENDBLK 0 ENDSEC 0 SECTION 2 ENTITIES 0 INSERT 2 ROOM 8 walls 10 0 20 0 "
                  "0 INSERT 2 ROOM 8 walls 10 8000 20 0 41 1.5 0 TEXT 8 names 10 2000 20 2000 40 300 1 Heron "
                  "0 TEXT 8 names 10 11000 20 2000 40 300 1 Egret 0 LWPOLYLINE 8 old 70 1 10 0 20 9000 10 3000 20 9000 "
                  "10 3000 "
                  "20 12000 10 0 20 12000 0 ENDSEC 0 EOF"));
        dxf.close();
        w_->showStage("survey");
        auto* page = view<SurveyPage>();
        dropFile(plan(), dxf.fileName());
        dropFile(plan(), LOOM_SOURCE_DIR "/README.md"); // no drawing, said so
        QVERIFY2(said_.contains("no drawing"), qPrintable(said_));
        auto* outlines = page->findChild<QListWidget*>("drawingOutlines");
        QTRY_VERIFY2(outlines->isVisible() && outlines->count() == 2,
                     qPrintable(QString("%1 outlines: %2").arg(outlines->count()).arg(said_)));
        QVERIFY(outlines->item(0)->text().startsWith("Egret") && outlines->item(0)->text().contains("45.0"));
        auto* layers = page->findChild<QListWidget*>("drawingLayers");
        const auto old = layers->findItems("old", Qt::MatchStartsWith);
        QVERIFY(old.size() == 1 && old[0]->checkState() == Qt::Unchecked);
        layers->setFocus(); // drawn as well: a third outline, which has no name
        layers->setCurrentItem(old[0]);
        QTest::keyClick(layers, Qt::Key_Space);
        QTRY_COMPARE(outlines->count(), 3);
        QVERIFY(project().buildings[0].backdrops[0].hidden.empty());
        QCOMPARE(page->findChild<QPushButton*>("makeRooms")->text(), QString("Make rooms of these 2"));
        const auto before = plan()->grab().toImage();
        press("makeRooms");
        const auto& rooms = project().buildings[0].rooms;
        QCOMPARE(rooms.size(), std::size_t(2));
        QVERIFY(rooms[0].name == "Egret" && rooms[1].name == "Heron");
        QVERIFY(std::abs(acoustics::areaOf(rooms[0].outline)) > 44.9 && !page->drawing()->isVisible());
        QVERIFY(plan()->grab().toImage() != before);
        session().undo();
        QVERIFY(project().buildings[0].rooms.empty());
        QTRY_VERIFY(plan()->backdrop().plan()); // the view reads it on a thread of its own
        pick("layers, unit");                   // again, by words
        QTRY_VERIFY(page->drawing()->isVisible());
        QTest::keyClick(page->drawing(), Qt::Key_Escape);
        QVERIFY(!page->drawing()->isVisible());
        pick("take the backdrop");
        QVERIFY(project().buildings[0].backdrops.empty());
    }
    void devicesOfACopiedTable() {
        openDemo();
        const auto before = project().devices.size();
        QApplication::clipboard()->setText(
            "Name\tModel\tRoom\tAddress\nVisitor\tbobbin-c6\ttern\t10.99.0.9\nNone\tunheard-of\t\t\n");
        whenOpen<QDialog>([](QDialog* dialog) {
            auto* table = dialog->findChild<QTableWidget*>();
            QVERIFY(table && table->rowCount() == 3); // new, its address, and what is left out
            QVERIFY(table->item(2, 2)->text().contains("no model"));
            QTest::keyClick(dialog, Qt::Key_Return);
        });
        pick("devices of a copied table");
        QCOMPARE(project().devices.size(), before + 1);
        const auto& made = project().devices[before];
        QVERIFY(made.name == "Visitor" && made.room == "tern" && made.address == "10.99.0.9");
        session().undo();
        QCOMPARE(project().devices.size(), before);
    }
    // -- on site --
    void roomsShowTheirHealth() {
        openDemo();
        const QImage before = plan()->grab().toImage();
        project::DeviceReport lost;
        lost.paired = true;
        session().setHealth(
            {{"tern-canopy", project::wordOf(lost)}, {"tern-tap", {project::Health::good, "well", ""}}});
        QVERIFY(plan()->grab().toImage() != before);
        click(17, 9); // a press on the room brings its devices
        QCOMPARE(q(state().room()), QString("tern"));
        auto* table = w_->findChild<DeviceTable*>();
        const int row = table->rows().rowOf("tern-canopy");
        QVERIFY(row >= 0);
        const auto word =
            table->rows().data(table->rows().index(row, DeviceTableModel::status), Qt::DisplayRole).toString();
        QVERIFY2(word.startsWith("lost"), qPrintable(word));
        session().setHealth({});
        QVERIFY(!table->rows()
                     .data(table->rows().index(row, DeviceTableModel::status), Qt::DisplayRole)
                     .toString()
                     .startsWith("lost"));
    }
    void openWallIsNotDrawn() {
        openDemo();
        plan()->fit();
        state().setWallState("joined");
        const QImage picture = plan()->grab().toImage();
        const auto dark = [&](double wall) {
            int count = 0;
            for (int y = at(wall, 1).y(); y < at(wall, 4).y(); ++y)
                for (int x = at(wall, 1).x() - 3; x <= at(wall, 1).x() + 3; ++x)
                    count += picture.pixelColor(x, y).lightness() < 110;
            return count;
        };
        QVERIFY2(dark(32) > 100 && dark(23.75) * 4 < dark(32),
                 qPrintable(QString("%1, %2").arg(dark(32)).arg(dark(23.75))));
    }
};

LOOM_TEST(tst_survey_page, TestSurveyPage)
#include "tst_survey_page.moc"
