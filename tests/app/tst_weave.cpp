// Weave driven by keys and mouse: links, groups, drags, tools, trace, compare, swatches, findings, drawings.
#include "app/bench/bench_engine.h"
#include "app/deck/curve_view.h"
#include "app/deck/value_field.h"
#include "app/shell/findings_panel.h"
#include "app/weave/insert_field.h"
#include "app/weave/weave_print.h"
#include "app/weave/weave_view.h"
#include "app/weave/work_strip.h"
#include "window_test.h"
#ifndef Q_MOC_RUN
#include "engine/path_response.h"
#include "program/links.h"
#endif
#include "test.h"
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPushButton>
#include <QSvgRenderer>

using namespace loom;
using namespace loom::app;

class TestWeave : public WindowTest {
    Q_OBJECT
    WeaveView* weave() { return w_->findChild<WeaveView*>(); }
    const engine::Program& program() { return *session().program(); }
    double value(const char* block, const char* param) {
        return engine::BlockView(*program().find(block)).look()[param];
    }
    void click(const QString& lane, Qt::KeyboardModifiers keys = {}) {
        QTest::mouseClick(weave(), Qt::LeftButton, keys, weave()->laneRect(lane).topLeft().toPoint() + QPoint(30, 14));
    }
    void drag(QPointF from, QPointF to, Qt::KeyboardModifiers keys = {}) {
        QTest::mousePress(weave(), Qt::LeftButton, keys & ~Qt::ControlModifier, from.toPoint());
        for (int i = 1; i <= 8; ++i) {
            const QPointF at = from + (to - from) * i / 8;
            QMouseEvent move(QEvent::MouseMove, at, weave()->mapToGlobal(at), Qt::NoButton, Qt::LeftButton, keys);
            QApplication::sendEvent(weave(), &move);
        }
        QTest::mouseRelease(weave(), Qt::LeftButton, keys, to.toPoint());
    }
    void key(int k, Qt::KeyboardModifiers keys = {}) {
        w_->activateWindow(); // a dialog may have had it
        QVERIFY(QTest::qWaitForWindowActive(w_.get()));
        QTest::keyClick(weave(), static_cast<Qt::Key>(k), keys);
    }
    void choose(const QString& first, const QString& last) {
        click(first);
        click(last, Qt::ShiftModifier);
    }
    double gainAt(const char* from, const char* to) {
        const auto h = engine::pathResponse(program(), {from, 0}, {to, 0}, {1000}, 48000);
        return h ? 20 * std::log10(std::abs((*h)[0]) + 1e-12) : 999;
    }
    QPushButton* chip(const QString& part) {
        for (auto* b : w_->findChild<WorkStrip*>()->findChildren<QPushButton*>())
            if (b->isVisibleTo(w_.get()) && b->text().contains(part))
                return b;
        return nullptr;
    }
    void runBench() {
        key(Qt::Key_F5);
        QTRY_VERIFY_WITH_TIMEOUT(session().bench().running(), 20000);
        QTRY_VERIFY_WITH_TIMEOUT(session().bench().meter({"chair.eq", 0}).peakDb > -30, 5000);
    }

  private slots:
    void initTestCase() { beginAll(); }
    void init() {
        begin("weave");
        openDemo();
        w_->showStage("weave");
        weave()->setFocus();
    }
    void cleanup() { end(); }

    void linkedLanesBreakAwayAndComeBack() {
        choose("delegate-1", "delegate-8");
        key(Qt::Key_L);
        QCOMPARE(project::linkedWith(program(), "delegate-1").size(), std::size_t(7));
        key(Qt::Key_L); // again: nothing is different
        QCOMPARE(project::linkedWith(program(), "delegate-1").size(), std::size_t(7));
        click("delegate-3");
        auto* corner = w_->findChild<ValueField*>("delegate-3.highpass.corner");
        QTRY_VERIFY(corner);
        const auto type = [&](const QString& text) {
            corner->setFocus();
            corner->selectAll();
            QTest::keyClicks(corner, text);
            QTest::keyClick(corner, Qt::Key_Return);
        };
        type("140");
        QCOMPARE(value("delegate-8.highpass", "corner"), 140.0);
        QTest::keyClick(corner, Qt::Key_B, Qt::ControlModifier); // on its own from now on
        type("200");
        QCOMPARE(value("delegate-3.highpass", "corner"), 200.0);
        QCOMPARE(value("delegate-8.highpass", "corner"), 140.0);
        QVERIFY(corner->toolTip().contains("apart"));
        session().set("delegate-8.highpass", "corner", 150);
        QCOMPARE(value("delegate-1.highpass", "corner"), 150.0);
        QCOMPARE(value("delegate-3.highpass", "corner"), 200.0);
        QTest::keyClick(corner, Qt::Key_B, Qt::ControlModifier);
        QCOMPARE(value("delegate-3.highpass", "corner"), 150.0);
        // What is inserted and removed reaches all.
        weave()->setFocus();
        session().choose("delegate-5", "delegate-5.highpass");
        QVERIFY(weave()->speak("gate -50"));
        QCOMPARE(session().layout().laneOf("delegate-2")->beads.size(), std::size_t(4));
        QVERIFY(session().block().startsWith("delegate-5.gate"));
        key(Qt::Key_Delete);
        QCOMPARE(session().layout().laneOf("delegate-2")->beads.size(), std::size_t(3));
        click("delegate-1");
        key(Qt::Key_L, Qt::ShiftModifier);
        QCOMPARE(project::linkedWith(program(), "delegate-2").size(), std::size_t(6));
    }
    void groupsFoldOrderAndColour() {
        choose("delegate-1", "delegate-8");
        answer("Councillors");
        key(Qt::Key_G);
        QCOMPARE(weave()->layout().groups.size(), std::size_t(1));
        const auto& group = weave()->layout().groups[0];
        QCOMPARE(group.name, std::string("Councillors"));
        // The triangle folds, the heading chooses all.
        const QPointF at = weave()->headingRect(group).center();
        QTest::mouseClick(weave(), Qt::LeftButton, {}, at.toPoint());
        QCOMPARE(session().lanes().size(), 8);
        const auto high = weave()->minimumHeight();
        QTest::mouseClick(weave(), Qt::LeftButton, {}, QPoint(14, qRound(at.y())));
        QVERIFY(weave()->layout().groups[0].folded && weave()->minimumHeight() < high);
        QVERIFY(weave()->beadRect("delegate-3.eq").isNull());
        QCOMPARE(weave()->endPoint("delegate-3"), weave()->endPoint("delegate-7"));
        // A knot of folded lanes stands for all of them.
        QTest::mouseDClick(weave(), Qt::LeftButton, {}, weave()->crossing("hall", 1, 0).toPoint());
        key(Qt::Key_Right, Qt::AltModifier);
        QVERIFY(!weave()->layout().groups[0].folded);
        click("far-end");
        key(Qt::Key_Up, Qt::AltModifier);
        QVERIFY(weave()->laneRect("far-end").top() < weave()->laneRect("delegate-1").top());
        weave()->colourChosen("plum");
        QCOMPARE(program().find("far-end")->marks.at("colour"), std::string("plum"));
        while (session().history().canUndo())
            session().undo();
        QVERIFY(weave()->layout().groups.empty());
    }
    void chainsAreDraggedFromLaneToLane() {
        const auto label = [&](const char* lane) { return weave()->laneRect(lane).topLeft() + QPointF(30, 14); };
        const auto kinds = [&](const char* lane) {
            QStringList all;
            for (const auto& b : session().layout().laneOf(lane)->beads)
                all << QString::fromStdString(program().find(b)->kind);
            return all.join(' ');
        };
        drag(label("chair"), label("programme-l"), Qt::ControlModifier);
        QCOMPARE(kinds("programme-l"), QString("level preamp highpass eq"));
        QCOMPARE(kinds("chair"), QString("preamp highpass eq"));
        drag(weave()->beadRect("chair.eq").center(), weave()->beadRect("far-end.level").center());
        QCOMPARE(kinds("chair"), QString("preamp highpass"));
        QVERIFY(kinds("far-end").contains("eq"));
        session().undo();
        session().undo();
        QCOMPARE(kinds("programme-l"), QString("level"));
    }
    void severalRoutesAtOnce() {
        QVERIFY(session().start("heddle-16"));
        QVERIFY(weave()->speak("source Desk x3, destination Zone x3"));
        session().chooseLanes({"desk-1", "desk-2", "desk-3"});
        drag(weave()->endPoint("desk-1"), weave()->endPoint("zone-1"));
        for (const int i : {1, 2, 3})
            QCOMPARE(program().into({"zone-" + std::to_string(i), 0})->from.block, "desk-" + std::to_string(i));
        QCOMPARE(session().history().undoText(), std::string("Route 3 lanes"));
        // With Alt all of them to the one; what is heard there stays.
        session().chooseLanes({"desk-1", "desk-2", "desk-3"});
        drag(weave()->endPoint("desk-1"), weave()->endPoint("zone-2"), Qt::AltModifier);
        for (const char* from : {"desk-1", "desk-2", "desk-3"})
            QVERIFY(std::abs(gainAt(from, "zone-2")) < 0.01);
    }
    void aBlockIsSwapped() {
        session().choose("chair", "chair.highpass");
        key(Qt::Key_X);
        auto* words = w_->findChild<InsertField*>()->findChild<QLineEdit*>();
        QTest::keyClicks(words, "low-pass");
        QTest::keyClick(words, Qt::Key_Return);
        QVERIFY(!program().find("chair.highpass"));
        QCOMPARE(session().block(), QString("chair.lowpass"));
        QCOMPARE(value("chair.lowpass", "corner"), 90.0);
    }
    void toolsAtAnyThreadWithoutChangingTheProgram() {
        session().choose("loop");
        key(Qt::Key_M, Qt::ShiftModifier);
        QVERIFY(said_.contains("F5")); // nothing runs yet
        runBench();
        const auto before = program();
        QTRY_VERIFY_WITH_TIMEOUT(session().bench().meter({"ceiling-1", 0}).peakDb > -50, 6000);
        click("ceiling-1");
        session().choose("ceiling-1", "ceiling-1.eq");
        key(Qt::Key_M, Qt::ShiftModifier);
        QTRY_VERIFY(chip("Mute at"));
        QTRY_VERIFY_WITH_TIMEOUT(session().bench().meter({"ceiling-1", 0}).peakDb < -70, 12000);
        key(Qt::Key_E);
        QTRY_VERIFY(chip("Measuring"));
        // From the far end, where nobody speaks, nothing; a sine is heard there, and bridged to the loop as well.
        click("far-end");
        answer("sine 1k -10");
        key(Qt::Key_I);
        QTRY_VERIFY_WITH_TIMEOUT(session().bench().meter({"column-l", 0}).peakDb > -25, 6000);
        key(Qt::Key_B);
        click("loop");
        key(Qt::Key_B);
        QTRY_VERIFY(chip("bridged to"));
        QCOMPARE(program(), before);
        QVERIFY(!session().dirty());
        // Back into itself: refused, with the loop drawn.
        QObject here;
        std::vector<std::string> way;
        connect(&session(), &Session::refused, &here, [&](const std::vector<std::string>& w) { way = w; });
        session().choose("ceiling-1", "ceiling-1.eq");
        key(Qt::Key_B);
        session().choose("chair", "chair.preamp");
        key(Qt::Key_B);
        QVERIFY2(said_.contains("loop"), qPrintable(said_));
        QCOMPARE(std::count(way.begin(), way.end(), "hall"), 1);
        const QImage drawn = weave()->grab().toImage();
        bool red = false;
        for (int y = 0; y < drawn.height() && !red; ++y)
            for (int x = 0; x < drawn.width() && !red; ++x)
                red = drawn.pixelColor(x, y) == tokens().fault;
        QVERIFY(red);
        // An edit meanwhile goes on with the tools in place.
        QVERIFY(session().set("chair.eq", "2.gain", -3));
        QVERIFY(weave()->speak("level -3"));
        QCOMPARE(session().bench().tools().size(), std::size_t(3));
        QTest::qWait(300);
        QVERIFY(session().bench().meter({"ceiling-1", 0}).peakDb < -70);
        w_->activateWindow(); // a dialog was there, and shortcuts need it
        QVERIFY(QTest::qWaitForWindowActive(w_.get()));
        key(Qt::Key_F9);
        QVERIFY(session().bench().tools().empty() && session().bench().pins().empty());
        QTRY_VERIFY_WITH_TIMEOUT(session().bench().meter({"ceiling-1", 0}).peakDb > -50, 6000);
        QTRY_VERIFY(!chip("Clear all"));
    }
    void anEqualiserIsSeenInItsPathAndABandHeardAlone() {
        session().choose("chair", "chair.eq");
        auto* curve = w_->findChild<CurveView*>("curve.chair.eq");
        QTRY_VERIFY(curve && curve->width() > 200);
        auto* span = w_->findChild<QComboBox*>("chair.eq.span");
        const auto before = curve->grab().toImage();
        QTest::keyClick(curve, Qt::Key_C);
        QCOMPARE(span->currentText(), QString("its chain"));
        const auto chain = curve->grab().toImage();
        QTest::keyClick(curve, Qt::Key_C);
        QVERIFY(curve->span() == project::Span::path && curve->grab().toImage() != chain && chain != before);
        QTest::keyClick(curve, Qt::Key_S);
        QVERIFY(said_.contains("F5"));
        weave()->setFocus();
        runBench();
        QTest::keyClick(curve, Qt::Key_2);
        QTest::keyClick(curve, Qt::Key_S);
        QCOMPARE(session().bench().tools().size(), std::size_t(1));
        QTRY_VERIFY(chip("Only 240 Hz"));
        QTest::keyClick(curve, Qt::Key_5); // another band instead
        QTest::keyClick(curve, Qt::Key_S);
        QCOMPARE(session().bench().tools().size(), std::size_t(1));
        QCOMPARE(session().bench().tools()[0].hz, 3100.0);
        QTest::keyClick(curve, Qt::Key_S);
        QVERIFY(session().bench().tools().empty());
    }
    void traceFindsWhereSoundIsLost() {
        QVERIFY(session().set("hall", "out.6.mute", 1));
        click("loop");
        key(Qt::Key_T);
        QVERIFY(weave()->traced() && weave()->traced()->lostAt >= 0);
        QVERIFY(said_.contains("Output 6 is muted"));
        QTRY_VERIFY(chip("Lost at"));
        QVERIFY(session().set("hall", "out.6.mute", 0)); // followed as it is mended
        QVERIFY(weave()->traced()->lostAt < 0);
        QTRY_VERIFY(chip("arrives") && !chip("Lost at"));
        key(Qt::Key_Escape);
        QVERIFY(!weave()->traced());
        QTRY_VERIFY(!chip("Clear all"));
    }
    void compareAAndB() {
        click("chair");
        key(Qt::Key_F7);
        session().set("chair.eq", "2.gain", 6);
        session().set("loop.delay", "time", 20); // on another lane: stays whichever is heard
        QTRY_VERIFY(chip("1 value differs"));
        key(Qt::Key_F7);
        QCOMPARE(value("chair.eq", "2.gain"), -4.5);
        QCOMPARE(value("loop.delay", "time"), 20.0);
        QTRY_VERIFY(chip("you hear A"));
        key(Qt::Key_F7);
        QCOMPARE(value("chair.eq", "2.gain"), 6.0);
        key(Qt::Key_F7, Qt::ShiftModifier);
        QVERIFY(!session().comparison());
        QCOMPARE(value("chair.eq", "2.gain"), 6.0);
    }
    void whatChangedSinceKept() {
        const auto kept = program();
        QVERIFY(session().edit(
            project::changeDevice(session().device()->id, "kept", [&](project::Device& d) { d.known.kept = kept; })));
        session().set("chair.preamp", "gain", 44);
        click("chair");
        auto* gain = w_->findChild<ValueField*>("chair.preamp.gain");
        QTRY_VERIFY(gain && gain->toolTip().contains("kept: +38.0 dB"));
        session().choose("chair", "chair.preamp");
        weave()->restoreChosen(true);
        QCOMPARE(value("chair.preamp", "gain"), 38.0);
        weave()->restoreChosen(false);
        QVERIFY(program().find("chair.preamp")->values.empty());
    }
    void aSwatchIsKeptAndInsertedByName() {
        session().choose("delegate-2");
        answer({"Our gooseneck", "of this hall"});
        weave()->keepSwatch();
        QVERIFY2(said_.contains("Kept in your library"), qPrintable(said_));
        click("programme-l");
        key(Qt::Key_Slash);
        auto* words = w_->findChild<InsertField*>()->findChild<QLineEdit*>();
        QTest::keyClicks(words, "our goose");
        QTest::keyClick(words, Qt::Key_Return);
        QCOMPARE(session().layout().laneOf("programme-l")->beads.size(), std::size_t(4));
        QCOMPARE(value(session().layout().laneOf("programme-l")->beads[1].c_str(), "gain"), 36.0);
    }
    void findingsAreListedFilteredAndLeft() {
        QVERIFY(weave()->speak("source Spare"));
        session().set("chair.eq", "on", 0);
        QTest::keyClick(w_.get(), Qt::Key_J, Qt::ControlModifier);
        auto* panel = w_->findChild<FindingsPanel*>();
        auto* list = panel->findChild<QListWidget*>();
        QVERIFY(panel->isVisible());
        QTRY_COMPARE(list->count(), 4); // worked out beside; two of the hall's are left for a reason
        QVERIFY(panel->findChildren<QComboBox*>()[0]->findText("Council Hall") > 0);
        for (int i = 0; i < list->count(); ++i)
            if (list->item(i)->text().contains("Spare"))
                list->setCurrentRow(i);
        auto* why = panel->findChild<QLineEdit*>();
        QTest::keyClick(why, Qt::Key_Return); // without a reason it is not left
        QCOMPARE(session().project().dismissed.size(), std::size_t(2));
        QTest::keyClicks(why, "for the next phase");
        QTest::keyClick(why, Qt::Key_Return);
        QCOMPARE(session().project().dismissed.size(), std::size_t(3));
        QTRY_VERIFY(panel->findChild<QLabel*>()->text().contains("0 to fix \u00b7 1 to note"));
        list->setCurrentRow(0);
        QTest::keyClick(list, Qt::Key_Return);
        QCOMPARE(session().block(), QString("chair.eq"));
        QTest::keyClick(w_.get(), Qt::Key_J, Qt::ControlModifier);
        QVERIFY(!panel->isVisible());
    }
    void lastPickedComesFirst() {
        const auto pick = [&](const QString& text) {
            QTest::keyClick(w_.get(), Qt::Key_K, Qt::ControlModifier);
            auto* words = w_->findChild<Finder*>()->findChild<QLineEdit*>();
            QTest::keyClicks(words, text);
            QTest::keyClick(words, Qt::Key_Return);
        };
        pick("hearing loop");
        QTest::keyClick(w_.get(), Qt::Key_K, Qt::ControlModifier);
        auto* list = w_->findChild<Finder*>()->findChild<QListWidget*>();
        QVERIFY2(list->item(0)->text().contains("Hearing loop"), qPrintable(list->item(0)->text()));
    }
    void wholeWeaveAndLifeSize() {
        key(Qt::Key_Plus);
        QVERIFY(weave()->zoom() > 1.1);
        key(Qt::Key_0);
        QVERIFY(weave()->minimumWidth() <= weave()->parentWidget()->width() && weave()->zoom() <= 1);
        key(Qt::Key_1);
        QCOMPARE(weave()->zoom(), 1.0);
    }
    void drawingsOnPaper() {
        const QString svg = folder_.filePath("hall.svg"), pdf = folder_.filePath("hall.pdf");
        Theme::get().setNight(true);
        QVERIFY(saveWeaveAsSvg(session(), *weave(), svg));
        QVERIFY(saveWeaveAsPdf(session(), *weave(), pdf));
        QVERIFY(Theme::get().night());
        Theme::get().setNight(false);
        QSvgRenderer drawn(svg);
        QVERIFY(drawn.isValid() && drawn.defaultSize().width() > 900);
        QFile text(svg);
        QVERIFY(text.open(QIODevice::ReadOnly));
        const auto all = text.readAll();
        QVERIFY(all.contains("Hearing loop") && all.contains("Delegate 8"));
        QFile pages(pdf);
        QVERIFY(pages.open(QIODevice::ReadOnly) && pages.readAll().startsWith("%PDF") && pages.size() > 5000);
        QVERIFY(!saveWeaveAsSvg(session(), *weave(), "/nowhere/at/all.svg"));
        QVERIFY(said_.contains("/nowhere/at/all.svg"));
    }
};
LOOM_TEST(tst_weave, TestWeave)
#include "tst_weave.moc"
