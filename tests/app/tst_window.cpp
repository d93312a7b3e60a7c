// The real window, driven by keys and mouse.
#include "app/bench/bench_page.h"
#include "app/deck/card.h"
#include "app/deck/curve_view.h"
#include "app/deck/matrix_table.h"
#include "app/deck/value_field.h"
#include "app/shell/accessible.h"
#include "app/shell/finder.h"
#include "app/shell/main_window.h"
#include "app/site/embedded_rig.h"
#include "app/site/site_page.h"
#include "app/theme/theme.h"
#include "app/weave/insert_field.h"
#include "app/weave/weave_view.h"
#include "models.h"
#ifndef Q_MOC_RUN
#include "engine/latency.h"
#include "engine/path_response.h"
#include "file/project_json.h"
#include "file/store.h"
#include "findings/findings.h"
#include "program/program_edit.h"
#endif
#include "test.h"
#include <QAccessible>
#include <QAccessibleActionInterface>
#include <QClipboard>
#include <QComboBox>
#include <QElapsedTimer>
#include <QHeaderView>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QSettings>
#include <QSpinBox>
#include <QStandardPaths>
#include <QTemporaryDir>

using namespace loom;
using namespace loom::app;

class TestWindow : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;
    std::unique_ptr<MainWindow> w_;
    QString file_;

    Session& session() { return w_->session(); }
    WeaveView* weave() { return w_->findChild<WeaveView*>(); }
    const engine::Program& program() { return *session().program(); }
    void click(const QString& lane) {
        QTest::mouseClick(weave(), Qt::LeftButton, {}, weave()->laneRect(lane).topLeft().toPoint() + QPoint(30, 14));
    }
    // A drag as a hand makes it: several moves between press and release.
    void drag(QWidget* on, QPointF from, QPointF to) {
        QTest::mousePress(on, Qt::LeftButton, {}, from.toPoint());
        for (int i = 1; i <= 8; ++i) {
            QMouseEvent move(QEvent::MouseMove, from + (to - from) * i / 8, on->mapToGlobal(from + (to - from) * i / 8),
                             Qt::NoButton, Qt::LeftButton, {});
            QApplication::sendEvent(on, &move);
        }
        QTest::mouseRelease(on, Qt::LeftButton, {}, to.toPoint());
    }
    double gainAt(const char* from, const char* to, double hz) {
        const auto h = engine::pathResponse(program(), {from, 0}, {to, 0}, {hz}, 48000);
        return h ? 20 * std::log10(std::abs((*h)[0]) + 1e-12) : 999;
    }
    CurveView* curve(const QString& block) { return w_->findChild<CurveView*>("curve." + block); }
    ValueField* field(const QString& name) { return w_->findChild<ValueField*>(name); }
    void runBench() {
        QTest::keyClick(weave(), Qt::Key_F5);
        QTRY_VERIFY_WITH_TIMEOUT(session().bench().running(), 20000);
    }

  private slots:
    void initTestCase() {
        QSettings::setPath(QSettings::NativeFormat, QSettings::UserScope, folder_.path());
        Theme::loadFonts();
        installAccessibility();
        QStandardPaths::setTestModeEnabled(true);
    }
    void init() {
        file_ = folder_.filePath("hall.loom");
        QFile::remove(file_);
        QDir(file_ + ".autosave").removeRecursively();
        const auto demo = test::load(LOOM_HALL);
        QVERIFY(demo && project::saveProject(*demo, file_.toStdString()));
        w_ = std::make_unique<MainWindow>();
        w_->showStage("weave");
        w_->resize(1280, 800);
        w_->show();
        QVERIFY(session().open(file_));
        QVERIFY(QTest::qWaitForWindowExposed(w_.get()));
        w_->activateWindow(); // no window manager under Xvfb does it for us, and shortcuts need it
        QVERIFY(QTest::qWaitForWindowActive(w_.get()));
    }
    void cleanup() { w_.reset(); }

    void insertDragUndo() { // "/" eq on Delegate 3, drag a band, hear and see the change, undo all of it
        const auto before = project::toJson(session().project());
        runBench();
        click("delegate-3");
        QCOMPARE(session().lane(), QString("delegate-3"));
        QTest::keyClick(weave(), Qt::Key_Slash);
        auto* words = w_->findChild<InsertField*>()->findChild<QLineEdit*>();
        QTest::keyClicks(words, "eq");
        QTest::keyClick(words, Qt::Key_Return);
        QCOMPARE(session().block(), QString("delegate-3.eq-2"));
        QVERIFY(!weave()->beadRect("delegate-3.eq-2").isNull());
        QTRY_VERIFY(curve("delegate-3.eq-2"));
        auto* c = curve("delegate-3.eq-2");
        QTRY_VERIFY(c->width() > 200);
        const double was = gainAt("delegate-3", "ceiling-1", 1000);
        QTest::mouseDClick(c, Qt::LeftButton, {}, QPoint(c->width() * 57 / 100, c->height() / 3)); // a band about 1 kHz
        QCOMPARE(c->band(), 1);
        QVERIFY(gainAt("delegate-3", "ceiling-1", 1000) > was + 1);
        drag(c, c->handle(1), QPointF(c->width() * 57 / 100.0, c->height() * 0.75));
        QVERIFY(gainAt("delegate-3", "ceiling-1", 1000) < was - 4);
        QCOMPARE(session().bench().running(), true);
        while (session().history().canUndo())
            QTest::keyClick(w_.get(), Qt::Key_Z, Qt::ControlModifier);
        QVERIFY(project::toJson(session().project()) == before);
        QVERIFY(weave()->beadRect("delegate-3.eq-2").isNull());
        QTest::keyClick(w_.get(), Qt::Key_Z, Qt::ControlModifier | Qt::ShiftModifier);
        QVERIFY(program().find("delegate-3.eq-2"));
    }
    void speechIsSeenAndChangesAreHeard() { // the chair talks from 0.3 s on
        runBench();
        QTRY_VERIFY_WITH_TIMEOUT(session().bench().meter({"chair.eq", 0}).peakDb > -30, 5000);
        click("chair");
        QTRY_VERIFY_WITH_TIMEOUT(session().bench().spectrum({"chair.eq", 0}).size() == 30, 5000);
        QVERIFY(session().set("chair.preamp", "mute", 1));
        QTRY_VERIFY_WITH_TIMEOUT(session().bench().meter({"chair.eq", 0}).peakDb < -60, 8000);
    }
    void routeByCrossingAndByDrag() {
        QVERIFY(gainAt("chair", "loop", 1000) < -150);
        QTest::mouseClick(weave(), Qt::LeftButton, {}, weave()->crossing("hall", 0, 5).toPoint());
        QVERIFY(gainAt("chair", "loop", 1000) > 0);
        QTest::keyClick(w_.get(), Qt::Key_Z, Qt::ControlModifier);
        QVERIFY(gainAt("chair", "loop", 1000) < -150);
        drag(weave(), weave()->endPoint("chair"), weave()->endPoint("loop"));
        QVERIFY(gainAt("chair", "loop", 1000) > 0);
        QCOMPARE(QString::fromStdString(session().history().undoText()), QString("Route Chair to Hearing loop"));
        const QPointF knot = weave()->crossing("hall", 0, 5);
        drag(weave(), knot, knot + QPointF(0, 40)); // down: quieter
        const double level = program().find("hall")->values.at("1.6");
        QVERIFY2(level < -8 && level > -12, qPrintable(QString::number(level)));
        QTest::keyClick(w_.get(), Qt::Key_Z, Qt::ControlModifier); // the whole drag is one step
        QCOMPARE(program().find("hall")->values.at("1.6"), 0.0);
    }
    void keyboardAlone() {
        weave()->setFocus();
        QTest::keyClick(weave(), Qt::Key_Tab);
        QCOMPARE(session().lane(), QString("chair"));
        QTest::keyClick(weave(), Qt::Key_Down);
        QCOMPARE(session().lane(), QString("delegate-1"));
        for (int i = 0; i < 3; ++i)
            QTest::keyClick(weave(), Qt::Key_Right);
        QCOMPARE(session().block(), QString("delegate-1.eq"));
        QTest::keyClick(weave(), Qt::Key_Left, Qt::ControlModifier); // before the high-pass
        QCOMPARE(QString::fromStdString(program().into({"delegate-1.eq", 0})->from.block),
                 QString("delegate-1.preamp"));
        QTest::keyClick(weave(), Qt::Key_Delete);
        QVERIFY(!program().find("delegate-1.eq"));
        QCOMPARE(QString::fromStdString(program().into({"delegate-1.highpass", 0})->from.block),
                 QString("delegate-1.preamp"));
    }
    void fieldsTakeWhatPeopleType() {
        click("delegate-3");
        QTRY_VERIFY(field("delegate-3.highpass.corner"));
        auto* f = field("delegate-3.highpass.corner");
        f->setFocus();
        f->selectAll();
        QTest::keyClicks(f, "1k2");
        QTest::keyClick(f, Qt::Key_Return);
        QCOMPARE(program().find("delegate-3.highpass")->values.at("corner"), 1200.0);
        QCOMPARE(f->text(), QString("1.20 kHz"));
        f->selectAll();
        QTest::keyClicks(f, "nonsense");
        QTest::keyClick(f, Qt::Key_Return); // said, and the old value is back
        QCOMPARE(f->text(), QString("1.20 kHz"));
        f->selectAll();
        QTest::keyClicks(f, "77");
        QTest::keyClick(f, Qt::Key_Escape);
        QCOMPARE(f->text(), QString("1.20 kHz"));
        QTest::keyClick(f, Qt::Key_Up);
        QVERIFY(program().find("delegate-3.highpass")->values.at("corner") > 1200);
        QTest::mouseDClick(f, Qt::LeftButton);
        QCOMPARE(f->text(), QString("100 Hz"));
    }
    void findOrDo() {
        QTest::keyClick(w_.get(), Qt::Key_K, Qt::ControlModifier);
        auto* words = w_->findChild<Finder*>()->findChild<QLineEdit*>();
        QVERIFY(words->isVisible());
        QTest::keyClicks(words, "delegate 3 band 2 gain = -3");
        QTest::keyClick(words, Qt::Key_Return);
        QCOMPARE(program().find("delegate-3.eq")->values.at("2.gain"), -3.0);
        QTest::keyClick(w_.get(), Qt::Key_K, Qt::ControlModifier);
        QTest::keyClicks(words, "hearing loop");
        QTest::keyClick(words, Qt::Key_Return);
        QCOMPARE(session().lane(), QString("loop"));
    }
    void saveAndReopen() {
        QVERIFY(session().set("chair.preamp", "gain", 40));
        QVERIFY(session().dirty());
        QTest::keyClick(w_.get(), Qt::Key_S, Qt::ControlModifier);
        QVERIFY(!session().dirty());
        const auto now = project::toJson(session().project());
        QVERIFY(session().open(file_));
        QVERIFY(project::toJson(session().project()) == now);
    }
    void crashRecovery() {
        QVERIFY(session().set("chair.preamp", "gain", 41));
        QTRY_VERIFY_WITH_TIMEOUT(QFile::exists(file_ + ".autosave"), 5000);
        w_ = std::make_unique<MainWindow>();
        QVERIFY(session().open(file_));
        QCOMPARE(program().find("chair.preamp")->values.at("gain"), 41.0);
        QVERIFY(session().dirty());
        session().undo();
        QCOMPARE(program().find("chair.preamp")->values.at("gain"), 38.0);
    }
    void
    tryKeepPowerCycle() { // find, pair, try, power-cycle (gone), try and keep, power-cycle (there), loss and return
        QTemporaryDir store;
        const auto delivered = [&] {
            rig::DeviceSetup one;
            one.models = test::models();
            one.serial = "00A3F1", one.address = "127.20.4.10", one.folder = store.path().toStdString();
            return std::make_unique<EmbeddedRig>(test::models(), std::vector{one});
        };
        auto rig = delivered();
        auto* site = w_->findChild<SitePage*>();
        const auto member = [&] { return std::as_const(site->fleet()).member("heddle"); };
        const auto up = [&] { return member() && member()->link.up() && member()->state; };
        const auto differing = [&] { return static_cast<int>(member()->rows.size()); };
        const auto press = [&](const char* name) {
            auto* b = site->findChild<QPushButton*>(name);
            QVERIFY2(b, name);
            QTRY_VERIFY2_WITH_TIMEOUT(b->isEnabled(), name, 5000);
            QTest::mouseClick(b, Qt::LeftButton);
        };
        const auto powerCycle = [&] {
            press("powerCycle");
            QTRY_VERIFY_WITH_TIMEOUT(!member()->link.up(), 5000);
            QCOMPARE(site->stateWord(), QString("Connection lost"));
            QTRY_VERIFY_WITH_TIMEOUT(up(), 8000);
        };
        const auto running = [&] { return member()->runningRevision(); };
        const auto kept = [&] { return member()->keptRevision(); };
        QTest::keyClick(w_.get(), Qt::Key_9, Qt::ControlModifier);
        QTest::qWait(200);
        press("Look again");
        QTRY_COMPARE_WITH_TIMEOUT(site->fleet().found().size(), std::size_t(1), 8000);
        press("pairAll");
        QTRY_VERIFY_WITH_TIMEOUT(up() && member()->config, 5000);
        QCOMPARE(running(), -1);
        press("tryIt");
        QTRY_VERIFY_WITH_TIMEOUT(running() > 0 && kept() < 0, 8000);
        QVERIFY(session().device()->known.sent);
        powerCycle();
        QTRY_COMPARE_WITH_TIMEOUT(running(), -1, 5000);
        QTRY_VERIFY_WITH_TIMEOUT(site->findChild<QPushButton*>("tryIt")->isEnabled(), 5000);
        press("tryIt");
        QTRY_VERIFY_WITH_TIMEOUT(running() > 0, 8000);
        QTRY_VERIFY_WITH_TIMEOUT(site->findChild<QPushButton*>("keep")->isEnabled(), 5000);
        press("keep");
        QTRY_VERIFY_WITH_TIMEOUT(kept() > 0, 5000);
        powerCycle();
        QTRY_VERIFY_WITH_TIMEOUT(running() > 0, 5000);
        QTRY_COMPARE_WITH_TIMEOUT(differing(), 0, 5000);
        QVERIFY(session().set("chair.eq", "2.gain", 1)); // not live: it stays here
        QTRY_COMPARE_WITH_TIMEOUT(differing(), 1, 5000);
        press("live");
        QVERIFY(site->fleet().live());
        QVERIFY(session().set("chair.eq", "2.gain", 2)); // live: it reaches the device
        QTRY_COMPARE_WITH_TIMEOUT(differing(), 0, 5000);
        // A tool acts on the device and ends with being live.
        QTest::keyClick(w_.get(), Qt::Key_2, Qt::ControlModifier);
        session().choose("chair");
        QTest::keyClick(w_->findChild<WeaveView*>(), Qt::Key_M, Qt::ShiftModifier);
        QTRY_COMPARE_WITH_TIMEOUT(session().tools().size(), std::size_t(1), 5000);
        QTRY_COMPARE_WITH_TIMEOUT(member()->state->tools, 1, 5000);
        QTest::keyClick(w_.get(), Qt::Key_9, Qt::ControlModifier);
        press("live");
        QVERIFY(session().tools().empty());
        QTRY_COMPARE_WITH_TIMEOUT(member()->state->tools, 0, 5000);
        press("live");
        QCOMPARE(differing(), 0);
        // Somebody turns a value at the device: it comes here, with who.
        rig->with([](rig::Rig& r) {
            QVERIFY(bool(r.setFault("00A3F1", "turn", nlohmann::json{{"chair.eq.2.gain", 2.5}})));
        });
        QTRY_COMPARE_WITH_TIMEOUT(program().find("chair.eq")->values.at("2.gain"), 2.5, 5000);
        QVERIFY(!site->fleet().log().matching("front panel", false).empty());
        rig.reset(); // the device vanishes; an edit meanwhile is not lost and shows when it is back
        QTRY_VERIFY_WITH_TIMEOUT(!member()->link.up(), 8000);
        QVERIFY(session().set("chair.eq", "2.gain", 3));
        rig = delivered();
        QTRY_VERIFY_WITH_TIMEOUT(up(), 12000);
        QTRY_COMPARE_WITH_TIMEOUT(differing(), 1, 8000); // it booted with what it kept
        QCOMPARE(program().find("chair.eq")->values.at("2.gain"), 3.0);
    }
    void windowMayGoWhileAFieldIsBeingTypedIn() {
        click("delegate-3");
        QTRY_VERIFY(field("delegate-3.highpass.corner"));
        field("delegate-3.highpass.corner")->setFocus();
        QTest::keyClicks(field("delegate-3.highpass.corner"), "12");
        w_.reset(); // the address sanitizer sees to it that nothing reaches into what is gone
        QVERIFY(!w_);
    }
    void badFileIsSaid() {
        QFile bad(folder_.filePath("bad.loom"));
        QVERIFY(bad.open(QIODevice::WriteOnly));
        bad.write("not a project");
        bad.close();
        QString text;
        connect(&session(), &Session::said, this, [&](const QString& t) { text = t; });
        QVERIFY(!session().open(bad.fileName()));
        QVERIFY(text.contains("bad.loom"));
        QVERIFY(session().program()); // what was open stays
    }
    void loopIsRefused() {
        QString text;
        connect(&session(), &Session::said, this, [&](const QString& t) { text = t; });
        QVERIFY(!session().setProgram(Result<engine::Program>(Error{"x", "", ""}), "y"));
        QVERIFY(!text.isEmpty());
    }
    void themesHaveContrast() { // text at least 4.5:1 on what it stands on (WCAG 2 relative luminance)
        const auto light = [](const QColor& c) {
            const auto part = [](double v) { return v <= 0.03928 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4); };
            return 0.2126 * part(c.redF()) + 0.7152 * part(c.greenF()) + 0.0722 * part(c.blueF());
        };
        const auto ratio = [&](const QColor& a, const QColor& b) {
            const double x = light(a), y = light(b);
            return (std::max(x, y) + 0.05) / (std::min(x, y) + 0.05);
        };
        for (const bool night : {false, true}) {
            Theme::get().setNight(night);
            const auto& t = tokens();
            for (const auto& ground : {t.linen, t.sheet, t.card, t.saffronTint})
                for (const auto& text : {t.ink, t.ink2})
                    QVERIFY2(ratio(text, ground) >= 4.5, qPrintable(text.name() + " on " + ground.name()));
            QVERIFY(ratio(t.fault, t.faultTint) >= 4.5);
            QVERIFY(ratio(t.railText, t.rail) >= 4.5);
        }
        Theme::get().setNight(false);
    }
    void assistiveProgramsSeeWhatIsPainted() {
        auto* view = QAccessible::queryAccessibleInterface(weave());
        QVERIFY(view && view->childCount() > 50);
        QAccessibleInterface* bead = nullptr;
        for (int i = 0; i < view->childCount(); ++i)
            if (view->child(i)->text(QAccessible::Name) == QString("Delegate 3 \u00b7 Equaliser"))
                bead = view->child(i);
        QVERIFY(bead);
        QCOMPARE(bead->text(QAccessible::Value), QString("on"));
        QCOMPARE(bead->rect().size(), weave()->beadRect("delegate-3.eq").toAlignedRect().size());
        QVERIFY(view->childAt(bead->rect().center().x(), bead->rect().center().y()) == bead);
        bead->actionInterface()->doAction(QAccessibleActionInterface::pressAction());
        QCOMPARE(session().block(), QString("delegate-3.eq"));
        QVERIFY(bead->state().selected);
        auto* curve = QAccessible::queryAccessibleInterface(this->curve("delegate-3.eq"));
        QVERIFY(curve->child(0)->text(QAccessible::Name).startsWith("Band 1"));
        auto* levels = QAccessible::queryAccessibleInterface(w_->findChild<LevelBoard*>());
        levels->child(1)->actionInterface()->doAction(QAccessibleActionInterface::pressAction());
        QCOMPARE(session().lane(), QString("delegate-1"));
    }
    void muteByKeyAndButton() { // a crossing under the pointer, a lane's line in the weave
        const auto value = [&](const char* id) {
            const auto& v = program().find("hall")->values;
            return v.count(id) ? v.at(id) : 0.0;
        };
        session().choose({});
        weave()->setFocus();
        const QPoint at = weave()->crossing("hall", 0, 0).toPoint();
        QTest::mouseMove(weave(), at);
        QTest::keyClick(weave(), Qt::Key_M);
        QCOMPARE(value("1.1.mute"), 1.0);
        QTest::mouseClick(weave(), Qt::RightButton, {}, at);
        QCOMPARE(value("1.1.mute"), 0.0);
        QTest::mouseMove(weave(), {2, 2});
        session().choose("delegate-2");
        QTest::keyClick(weave(), Qt::Key_M);
        QCOMPARE(value("in.3.mute"), 1.0);
        QTest::keyClick(w_.get(), Qt::Key_Z, Qt::ControlModifier);
        QCOMPARE(value("in.3.mute"), 0.0);
        QTest::keyClick(w_.get(), Qt::Key_Z, Qt::ControlModifier);
        QTest::keyClick(w_.get(), Qt::Key_Z, Qt::ControlModifier);
    }
    void crossingsAsATable() {
        session().choose("hall");
        auto* table = w_->findChild<MatrixTable*>("crossings.hall");
        QVERIFY(table);
        const auto cell = [&](int row, int column) {
            return table->visualRect(table->model()->index(row, column)).center();
        };
        const auto level = [&](const char* id) { return engine::BlockView(*program().find("hall")).look()[id]; };
        QCOMPARE(table->model()->headerData(1, Qt::Vertical).toString(), QString("Delegate 1"));
        QCOMPARE(table->model()->headerData(4, Qt::Horizontal).toString(), QString("Far-end send"));
        const auto before = program();
        // Four crossings, one typed value, one step of undo.
        QTest::mouseClick(table->viewport(), Qt::LeftButton, {}, cell(1, 0));
        QTest::mouseClick(table->viewport(), Qt::LeftButton, Qt::ShiftModifier, cell(2, 1));
        QTest::keyClick(table, '-'); // typing begins where it stands
        auto* editor = table->findChild<QLineEdit*>();
        QVERIFY(editor);
        QTest::keyClicks(editor, "4");
        QTest::keyClick(editor, Qt::Key_Return);
        QTRY_COMPARE(level("3.2"), -4.0);
        for (const char* id : {"2.1", "2.2", "3.1"})
            QCOMPARE(level(id), -4.0);
        QCOMPARE(level("4.1"), -6.0);
        QTest::keyClick(table, Qt::Key_M);
        QCOMPARE(level("3.2.mute"), 1.0);
        QTest::keyClick(table, Qt::Key_M);
        QCOMPARE(level("3.2.mute"), 0.0);
        // Held and drawn upwards: all four, and again one step.
        drag(table->viewport(), cell(1, 0), cell(1, 0) - QPoint(0, 20));
        QVERIFY(level("2.1") > -3 && level("2.1") < 6);
        QCOMPARE(level("2.1"), level("3.2"));
        session().undo();
        QCOMPARE(level("2.1"), -4.0);
        QTest::keyClick(table, Qt::Key_Up, Qt::ControlModifier);
        QTest::keyClick(table, Qt::Key_Up, Qt::ControlModifier);
        QCOMPARE(level("3.1"), -2.0);
        session().undo();
        QCOMPARE(level("3.1"), -4.0);
        QTest::keyClick(table, Qt::Key_Delete);
        QCOMPARE(level("3.2"), -80.0);
        while (session().history().canUndo())
            session().undo();
        QCOMPARE(program(), before);
        // A name mutes its line.
        auto* rows = table->verticalHeader();
        QTest::mouseClick(rows->viewport(), Qt::LeftButton, {}, {10, rows->sectionViewportPosition(2) + 5});
        QCOMPARE(level("in.3.mute"), 1.0);
        QVERIFY(table->model()->headerData(2, Qt::Vertical).toString().contains("mute"));
        table->enter("loud");
        QVERIFY(program() != before); // still there; nonsense changed nothing
        session().undo();
        QCOMPARE(program(), before);
    }
    void hubBelowAnotherIsChosenAndAligned() {
        auto made = project::addBlock(program(), "crossover", "Ways");
        QVERIFY(bool(made));
        auto p = *project::drawThread(made->program, {"chair.eq", 0}, {"ways", 0});
        made = project::addBlock(p, "sum", "Together");
        p = *project::drawThread(made->program, {"ways", 0}, {"together", 0});
        p.blocks.push_back({"late", "limiter", ""});
        p = *project::drawThread(p, {"ways", 1}, {"late", 0});
        p = *project::drawThread(p, {"late", 0}, {"together", 1});
        QVERIFY(session().setProgram(p, "Ways"));
        auto found = project::check(session().project());
        std::erase_if(found, [](const auto& f) { return f.dismissed(); });
        QCOMPARE(found.size(), 1u);
        QCOMPARE(found[0].id(), std::string("lanes-apart"));
        for (const char* hub : {"ways", "together", "hall"}) {
            QTest::mouseClick(weave(), Qt::LeftButton, {}, weave()->laneRect(hub).topLeft().toPoint() + QPoint(3, 3));
            QCOMPARE(session().lane(), QString(hub));
        }
        session().choose("together");
        auto* align = w_->findChild<QPushButton*>("together.align");
        QVERIFY(align);
        QTest::mouseClick(align, Qt::LeftButton);
        const auto* held = program().into({"together", 0});
        QCOMPARE(program().find(held->from.block)->kind, std::string("align"));
        QVERIFY(engine::unevenMeetings(program(), 48000).empty());
        session().undo();
        QCOMPARE(engine::unevenMeetings(program(), 48000).size(), 1u);
    }
    // From nothing to a hall: nine microphones with their chains, echo canceller with its reference, automatic mixer,
    // matrix mixer, seven destinations. A chord, a typed word and a gesture of the mouse count one each.
    void councilHallInUnderSixtyActions() {
        int actions = 0;
        bool understood = false;
        const auto chord = [&](QWidget* on, Qt::Key key, Qt::KeyboardModifiers with = {}) {
            ++actions;
            QTest::keyClick(on, key, with);
        };
        const auto say = [&](Qt::Key opens, const QString& words) {
            understood = false;
            chord(weave(), opens);
            QTRY_VERIFY(w_->findChild<InsertField*>());
            auto* field = w_->findChild<InsertField*>()->findChild<QLineEdit*>();
            QTest::keyClicks(field, words);
            actions += static_cast<int>(words.split(' ', Qt::SkipEmptyParts).size());
            chord(field, Qt::Key_Return);
            QTRY_VERIFY2(!w_->findChild<InsertField*>(), qPrintable(words));
            understood = true;
        };
        const auto press = [&](const QString& lane) {
            ++actions;
            QTest::mouseClick(weave(), Qt::LeftButton, {},
                              weave()->laneRect(lane).topLeft().toPoint() + QPoint(30, 14));
        };
        chord(weave(), Qt::Key_N, Qt::ControlModifier);
        auto* finder = w_->findChild<Finder*>();
        QTRY_VERIFY(finder->isVisible());
        chord(finder->findChild<QLineEdit*>(), Qt::Key_Return);
        QVERIFY(program().blocks.empty());
        say(Qt::Key_Slash, "source Chair, Delegate x8, preamp 36 phantom highpass 90 eq 250 -3 3k1 +2 echo automixer");
        say(Qt::Key_Slash, "source Far @usb1, level -3");
        say(Qt::Key_Greater, "*reference");
        say(Qt::Key_Slash,
            "destination Ceiling x2, Column x2, Loop, eq delay limiter -3, destination Send @usb1, Record @net1");
        press("automixer");
        say(Qt::Key_Greater, "* -6");
        press("far");
        say(Qt::Key_Greater, "c* -3");
        QVERIFY(understood);
        qInfo("Council Hall: %d actions", actions);
        QVERIFY(actions < 60);
        const auto& p = program();
        const auto chain = [&](const std::string& id) {
            QStringList kinds;
            const auto layout = engine::layOut(p);
            for (const auto& b : layout.laneOf(id)->beads)
                kinds << QString::fromStdString(p.find(b)->kind);
            return kinds.join(' ');
        };
        for (int i = 0; i < 9; ++i) {
            const std::string id = i ? "delegate-" + std::to_string(i) : "chair";
            QCOMPARE(chain(id), QString("preamp highpass eq"));
            QCOMPARE(p.find(id + ".preamp")->values.at("phantom"), 1.0);
            QCOMPARE(p.into({"echo", i})->from.block, id + ".eq");
            QCOMPARE(p.into({"automixer", i})->from, (engine::PortRef{"echo", i}));
        }
        for (const char* id : {"ceiling-1", "ceiling-2", "column-1", "column-2", "loop"})
            QCOMPARE(chain(id), QString("eq delay limiter"));
        QCOMPARE(p.into({"echo", 9})->from.block, std::string("far.level"));
        QCOMPARE(project::check(session().project()).size(), 0u);
        // It is heard: from the chair through everything to a ceiling, and the far end there but not in its own send.
        const auto h = engine::pathResponse(p, {"chair", 0}, {"ceiling-2", 0}, {1000}, 48000);
        QVERIFY(h && std::abs(20 * std::log10(std::abs((*h)[0])) - 30) < 1);
        const auto back = engine::pathResponse(p, {"far", 0}, {"send", 0}, {1000}, 48000);
        QVERIFY(back && std::abs((*back)[0]) < 1e-9);
        QVERIFY(engine::compile(p, 48000, {}));
        while (session().history().canUndo())
            session().undo();
        QVERIFY(program().blocks.empty());
    }
    void severalLanesAtOnce() {
        const auto value = [&](const char* block, const char* param) {
            return engine::BlockView(*program().find(block)).look()[param];
        };
        const auto before = program();
        click("delegate-2");
        QTest::keyClick(weave(), Qt::Key_Down, Qt::ShiftModifier);
        QTest::keyClick(weave(), Qt::Key_Down, Qt::ShiftModifier);
        QCOMPARE(session().lanes(), (QStringList{"delegate-2", "delegate-3", "delegate-4"}));
        QTest::mouseClick(weave(), Qt::LeftButton, Qt::ControlModifier,
                          weave()->laneRect("delegate-7").topLeft().toPoint() + QPoint(30, 14));
        QCOMPARE(session().lanes().size(), 4);
        const auto labels = w_->findChildren<QLabel*>();
        QVERIFY(std::any_of(labels.begin(), labels.end(),
                            [](const QLabel* l) { return l->text().contains("all 4 lanes"); }));
        // A value set in the deck goes to all of them, and is one step.
        auto* corner = field("delegate-7.highpass.corner");
        QVERIFY(corner);
        corner->setFocus();
        corner->selectAll();
        QTest::keyClicks(corner, "140");
        QTest::keyClick(corner, Qt::Key_Return);
        for (const char* b :
             {"delegate-2.highpass", "delegate-3.highpass", "delegate-4.highpass", "delegate-7.highpass"})
            QCOMPARE(value(b, "corner"), 140.0);
        QVERIFY(value("delegate-5.highpass", "corner") != 140.0);
        session().undo();
        QCOMPARE(program(), before);
        // A chain from one lane to the others; its settings only; and text that is no chain.
        session().set("chair.eq", "5.gain", -7);
        click("chair");
        QTest::keyClick(weave(), Qt::Key_C, Qt::ControlModifier);
        click("delegate-1");
        QTest::keyClick(weave(), Qt::Key_Down, Qt::ShiftModifier);
        QTest::keyClick(weave(), Qt::Key_V, Qt::ControlModifier | Qt::ShiftModifier);
        QCOMPARE(value("delegate-2.eq", "5.gain"), -7.0);
        QCOMPARE(program().blocks.size(), before.blocks.size());
        click("far-end");
        QTest::keyClick(weave(), Qt::Key_V, Qt::ControlModifier);
        QCOMPARE(engine::layOut(program()).laneOf("far-end")->beads.size(), 3u);
        QCOMPARE(value("far-end.eq", "5.gain"), -7.0);
        const auto pasted = program();
        QGuiApplication::clipboard()->setText("{\"loomChain\": 1, \"program\": 7}");
        QTest::keyClick(weave(), Qt::Key_V, Qt::ControlModifier);
        QCOMPARE(program(), pasted);
        // Taken off all that are chosen.
        QTest::keyClick(weave(), Qt::Key_A, Qt::ControlModifier);
        QCOMPARE(session().lanes().size(), 12);
        session().choose("delegate-3", "delegate-3.highpass");
        QTest::keyClick(weave(), Qt::Key_Delete);
        QVERIFY(!program().find("delegate-8.highpass") && !program().find("chair.highpass"));
        while (session().history().canUndo())
            session().undo();
        QCOMPARE(program(), before);
    }
    void whatIsNotUnderstoodStays() { // in the field, with the word that fits nothing
        click("chair");
        QTest::keyClick(weave(), Qt::Key_Slash);
        auto* field = w_->findChild<InsertField*>();
        auto* words = field->findChild<QLineEdit*>();
        QTest::keyClicks(words, "eq 3k1 quark");
        QVERIFY(field->findChild<QListWidget*>()->item(0)->text().contains("quark"));
        const auto before = program();
        QTest::keyClick(words, Qt::Key_Return);
        QVERIFY(w_->findChild<InsertField*>() && program() == before);
        QCOMPARE(words->text(), QString("eq 3k1 quark"));
        for (int i = 0; i < 5; ++i)
            QTest::keyClick(words, Qt::Key_Backspace);
        QTest::keyClicks(words, "+3");
        QVERIFY(field->findChild<QListWidget*>()->item(0)->text().contains("3.10 kHz"));
        QTest::keyClick(words, Qt::Key_Return);
        QVERIFY(program() != before);
    }
    void countInTheHeadOfACard() {
        session().choose("chair", "chair.eq");
        QTRY_VERIFY(w_->findChild<QSpinBox*>("chair.eq.bands"));
        auto* bands = w_->findChild<QSpinBox*>("chair.eq.bands");
        bands->setFocus();
        bands->selectAll();
        QTest::keyClicks(bands, "12");
        QTest::keyClick(bands, Qt::Key_Return);
        QCOMPARE(program().find("chair.eq")->shape.at("bands"), 12);
        QTest::keyClick(w_.get(), Qt::Key_Z, Qt::ControlModifier);
        QVERIFY(!program().find("chair.eq")->shape.count("bands"));
    }
    void everyBlockCanBeInsertedAndUndone() { // with an editor that draws itself
        weave()->setFocus();
        for (const auto& kind : engine::blockKinds()) {
            const auto before = program();
            session().choose("chair");
            QTest::keyClick(weave(), Qt::Key_Slash);
            QTRY_VERIFY(w_->findChild<InsertField*>());
            auto* words = w_->findChild<InsertField*>()->findChild<QLineEdit*>();
            QTest::keyClicks(words, QString::fromStdString(kind.label));
            QTest::keyClick(words, Qt::Key_Return);
            QTRY_VERIFY(!w_->findChild<InsertField*>());
            QVERIFY2(!(program() == before), kind.id.c_str());
            const auto made = std::find_if(program().blocks.begin(), program().blocks.end(),
                                           [&](const auto& b) { return !before.find(b.id); });
            QVERIFY2(made != program().blocks.end() && made->kind == kind.id, kind.id.c_str());
            const QString id = QString::fromStdString(made->id);
            bool shown = false;
            for (const auto* card : w_->findChildren<Card*>())
                shown = shown || card->block() == id;
            QVERIFY2(shown, kind.id.c_str());
            QVERIFY(!w_->grab().isNull());
            QTest::keyClick(w_.get(), Qt::Key_Z, Qt::ControlModifier);
            QVERIFY2(program() == before, kind.id.c_str());
        }
    }
    void newLaneWithPlayerAndFile() { // "/" with nothing chosen starts a lane; a sound file comes into the project
        session().choose({});
        weave()->setFocus();
        QTest::keyClick(weave(), Qt::Key_Slash);
        auto* words = w_->findChild<InsertField*>()->findChild<QLineEdit*>();
        QTest::keyClicks(words, "file pl");
        QTest::keyClick(words, Qt::Key_Return);
        QCOMPARE(session().lane(), QString("player"));
        QTRY_VERIFY(w_->findChild<QPushButton*>("player.file"));
        QVERIFY(session().setFile("player", "file", LOOM_SOURCE_DIR "/demo/marram-point/assets/programme-r.flac"));
        QCOMPARE(QString::fromStdString(program().find("player")->texts.at("file")), QString("programme-r.flac"));
        QVERIFY(!session().setFile("player", "file", folder_.filePath("ghost.wav")));
        QTest::keyClick(w_.get(), Qt::Key_Z, Qt::ControlModifier);
        QVERIFY(program().find("player")->texts.empty());
        QTest::keyClick(w_.get(), Qt::Key_Z, Qt::ControlModifier);
        QVERIFY(!program().find("player"));
    }
    void newSourceTakesAFreePortAndMayTakeAnother() {
        session().choose({});
        QTest::keyClick(weave(), Qt::Key_Slash);
        auto* words = w_->findChild<InsertField*>()->findChild<QLineEdit*>();
        QTest::keyClicks(words, "source");
        QTest::keyClick(words, Qt::Key_Return);
        QCOMPARE(session().lane(), QString("source"));
        QCOMPARE(QString::fromStdString(program().find("source")->texts.at("port")), QString("in 10"));
        auto* ports = w_->findChild<QComboBox*>("source.port");
        QVERIFY(ports);
        ports->setFocus();
        QTest::keyClick(ports, Qt::Key_Down);
        QTRY_COMPARE(QString::fromStdString(program().find("source")->texts.at("port")), QString("in 11"));
        QVERIFY(ports != w_->findChild<QComboBox*>("source.port")); // the card was made anew
    }
    void recorderBlockWritesAFile() {
        auto n = project::addBlock(program(), "recorder", "Take");
        n->program.connections.push_back({{"chair.preamp", 0}, {n->block, 0}});
        QVERIFY(session().setProgram(n->program, "Add"));
        runBench();
        QStringList said;
        connect(&session(), &Session::said, this, [&](const QString& t) { said << t; });
        QVERIFY(session().set("take", "record", 1));
        QTest::qWait(400);
        QVERIFY(session().set("take", "record", 0));
        QTRY_VERIFY_WITH_TIMEOUT(said.join(' ').contains("Recorded"), 5000);
        const QString path = said.filter("Recorded").first().section(" in ", 1);
        QVERIFY2(QFile(path).size() > 48000 * 4 * 0.2, qPrintable(path));
        QFile::remove(path);
    }
    void textScale() {
        const double before = weave()->beadRect("chair.eq").height(); // its width follows the page
        for (int i = 0; i < 10; ++i)
            QTest::keyClick(w_.get(), Qt::Key_Plus, Qt::ControlModifier);
        QCOMPARE(Theme::get().percent(), 200);
        QCOMPARE(weave()->beadRect("chair.eq").height(), 2 * before);
        QTest::keyClick(w_.get(), Qt::Key_0, Qt::ControlModifier | Qt::ShiftModifier);
        QCOMPARE(Theme::get().percent(), 100);
    }
};
LOOM_TEST(tst_window, TestWindow)
#include "tst_window.moc"
