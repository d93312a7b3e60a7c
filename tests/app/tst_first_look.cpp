// What a stranger meets first: empty stages offer first steps, questions lie in place, lists open whole, cards and
// weaves use the width there is, and what is protected is asked about.
#include "app/deck/card.h"
#include "app/deck/deck.h"
#include "app/deck/value_field.h"
#include "app/shell/ask.h"
#include "app/shell/choice_box.h"
#include "app/shell/first_steps.h"
#include "app/shell/guard_bar.h"
#include "app/survey/device_table.h"
#include "app/weave/weave_view.h"
#include "models.h"
#ifndef Q_MOC_RUN
#include "surface/surface_edit.h"
#endif
#include "window_test.h"
#include <QLabel>
#include <QScrollArea>
#include <QScrollBar>
#ifndef Q_MOC_RUN
#include "model/notes.h"
#include "program/program_edit.h"
#include "rooms/room_edit.h"
#endif
#include "test.h"

using namespace loom;
using namespace loom::app;

class TestFirstLook : public WindowTest {
    Q_OBJECT
    const engine::Block& block(const char* id) { return *session().program()->find(id); }
    ValueField* field(const char* name) {
        for (auto* f : w_->findChildren<ValueField*>(name))
            if (f->isVisible())
                return f;
        return nullptr;
    }
    QScrollArea* deckArea() { return view<Deck>()->findChild<QScrollArea*>(); }
    void settle() { QTest::qWait(0); }

  private slots:
    void initTestCase() { beginAll(); }
    void init() { begin("survey"); }
    void cleanup() { end(); }

    void everyEmptyStageOffersItsFirstSteps() {
        auto* steps = view<FirstSteps>();
        for (const auto& s : w_->stages()) {
            w_->showStage(s.id);
            QVERIFY2(steps->isVisible(), qPrintable(s.name));
            const auto buttons = steps->findChildren<QPushButton*>();
            QVERIFY2(!buttons.isEmpty(), qPrintable(s.name));
            for (auto* b : buttons)
                QVERIFY2(w_->commands().find(b->objectName().mid(5)), qPrintable(b->objectName()));
            QVERIFY(w_->rect().contains(QRect(steps->mapTo(w_.get(), QPoint()), steps->size())));
        }
        openDemo();
        QVERIFY(session().edit(*project::addSurface(project(), "", "council-slate")));
        for (const auto& s : w_->stages()) {
            w_->showStage(s.id);
            QVERIFY2(!steps->isVisible(), qPrintable(s.name));
        }
    }
    void aFirstStepBringsARoom() {
        auto* steps = view<FirstSteps>();
        QVERIFY(steps->isVisible());
        answer("6 x 5 x 2.8");
        press("step.survey.roomBySize");
        QCOMPARE(project().buildings.size(), std::size_t(1));
        QCOMPARE(project().buildings[0].rooms[0].height, 2.8);
        QVERIFY(!steps->isVisible());
        session().undo();
        QVERIFY(!steps->isVisible()); // begun: it does not come back while the stage is in view
        w_->showStage("weave");
        w_->showStage("survey");
        QVERIFY(steps->isVisible());
        settle();
        press("step.survey.room"); // the tool needs the page
        QVERIFY(!steps->isVisible());
    }
    void aQuestionIsLeftByEscOrAPressElsewhere() {
        QTimer::singleShot(50, this, [this] { QTest::keyClick(QApplication::focusWidget(), Qt::Key_Escape); });
        QVERIFY(!askOne(w_.get(), "A name", {"Name", "x"}));
        QTimer::singleShot(50, this, [this] { w_->findChild<QPushButton*>("find")->setFocus(); });
        QVERIFY(!askOne(w_.get(), "A name", {"Name", "x"}));
        QTimer::singleShot(50, this, [] { QTest::keyClick(QApplication::focusWidget(), Qt::Key_Return); });
        QCOMPARE(askOne(w_.get(), "A name", {"Name", " Tern "}).value_or("none"), QString("Tern"));
        QTimer::singleShot(50, this, [] { QTest::keyClick(QApplication::focusWidget(), Qt::Key_Return); });
        QVERIFY(!askOne(w_.get(), "A name", {"Name", "  "})); // nothing was typed
        QTimer::singleShot(50, this, [] { QTest::keyClick(QApplication::focusWidget(), Qt::Key_Return); });
        QVERIFY(askOne(w_.get(), "A heading", {"Heading", ""}, true).has_value());
        answer({"", "4"});
        QCOMPARE(ask(w_.get(), "Two", {{"A", "a"}, {"B", "1", {"1", "4"}, false}}).value_or(QStringList()),
                 QStringList({"a", "4"}));
    }
    void unsavedChangesAreAskedAbout() {
        openDemo();
        session().edit(project::renameProject("Other"));
        QTimer::singleShot(50, this,
                           [this] { QTest::mouseClick(asked()->findChild<QPushButton*>("answer2"), Qt::LeftButton); });
        QVERIFY(!w_->close()); // stay here
        QTimer::singleShot(50, this, [this] { QTest::keyClick(asked(), Qt::Key_Escape); });
        QVERIFY(!w_->close());
        QTimer::singleShot(50, this, [] { QTest::keyClick(QApplication::focusWidget(), Qt::Key_Return); });
        QVERIFY(w_->close()); // the first answer saves
        const auto saved = test::load(session().path().toStdString());
        QVERIFY(saved && saved->name == "Other");
    }
    void listsOpenWhole() {
        ChoiceBox box;
        for (int i = 0; i < 14; ++i)
            box.addItem(QString("A loudspeaker with a name of some length, number %1").arg(i));
        box.resize(80, 24);
        box.show();
        box.showPopup();
        auto* list = box.view();
        QVERIFY(list->viewport()->width() >= list->sizeHintForColumn(0));
        QCOMPARE(list->horizontalScrollBarPolicy(), Qt::ScrollBarAlwaysOff);
        QVERIFY(list->viewport()->height() >= 14 * list->sizeHintForRow(0));
        box.hidePopup();
        for (auto* b : w_->findChildren<QComboBox*>())
            QVERIFY2(dynamic_cast<ChoiceBox*>(b), qPrintable(b->objectName() + " " + b->accessibleName()));
    }
    void aChainOfEightIsSeenWhole() {
        openDemo();
        w_->showStage("weave");
        Result<engine::Program> p = *session().program();
        for (const char* kind : {"compressor", "limiter", "level", "delay", "gate"}) {
            auto made = project::insertBlock(*p, kind, {session().layout().laneOf("chair")->beads.back(), 0}, "chair");
            QVERIFY(bool(made));
            p = made->program;
        }
        session().setProgram(p, "More");
        const auto beads = session().layout().laneOf("chair")->beads;
        QCOMPARE(beads.size(), std::size_t(8));
        for (const auto& chosen : beads) {
            session().choose("chair", QString::fromStdString(chosen));
            settle();
            QCOMPARE(deckArea()->horizontalScrollBar()->maximum(), 0);
            int full = 0;
            for (auto* c : view<Deck>()->findChildren<Card*>())
                if (c->block().toStdString() == chosen) {
                    QVERIFY(!c->narrow());
                    ++full;
                }
            QCOMPARE(full, 1);
        }
        session().choose("chair"); // none of them
        settle();
        QCOMPARE(deckArea()->horizontalScrollBar()->maximum(), 0);
        auto* gain = field("chair.preamp.gain"); // also a narrow card is typed into
        QVERIFY(gain);
        typeInto(gain, "12");
        QCOMPARE(block("chair.preamp").values.at("gain"), 12.0);
        session().choose("chair", "chair.eq");
        const auto narrow = [&] {
            const auto cards = view<Deck>()->findChildren<Card*>();
            return std::count_if(cards.begin(), cards.end(), [](auto* c) { return c->narrow(); });
        };
        settle();
        const auto before = narrow();
        QVERIFY(before > 0);
        w_->resize(3000, 1000); // with more room there is no need
        QTRY_VERIFY(narrow() < before);
    }
    void aWeaveUsesAWidePage() {
        openDemo();
        w_->showStage("weave");
        auto* weave = view<WeaveView>();
        const double bead = weave->beadRect("chair.preamp").width();
        w_->resize(1900, 1000);
        QTRY_VERIFY(weave->beadRect("chair.preamp").width() > bead);
        QTRY_VERIFY(weave->endPoint("ceiling-1").x() > weave->parentWidget()->width() - 300);
        QVERIFY(weave->minimumWidth() <= weave->parentWidget()->width());
        QVERIFY(qobject_cast<QScrollArea*>(weave->parentWidget()->parentWidget())->horizontalScrollBar()->maximum() ==
                0);
    }
    void aLargeWeaveIsFittedWhenItIsOpened() {
        openDemo();
        w_->showStage("weave");
        QTRY_COMPARE(view<WeaveView>()->zoom(), 1.0);
        auto p = project();
        Result<engine::Program> program = *p.device(session().device()->id)->program;
        for (const char* kind : {"compressor", "limiter", "level", "delay", "gate", "level", "delay", "level"})
            program = project::insertBlock(*program, kind, {engine::layOut(*program).laneOf("chair")->beads.back(), 0},
                                           "chair")
                          ->program;
        p.device(session().device()->id)->program = *program;
        open(p, "large");
        QTRY_VERIFY(view<WeaveView>()->zoom() < 1 && view<WeaveView>()->zoom() >= 0.75);
        view<WeaveView>()->setZoom(0.5);
        view<WeaveView>()->zoomToFit();
        QVERIFY(view<WeaveView>()->zoom() > 0.5);
    }
    void tablesHaveTheWidthThereIs() {
        openDemo();
        auto* table = view<DeviceTable>();
        QTRY_VERIFY(table->isVisible());
        w_->resize(1900, 1000);
        const auto all = [table] {
            int sum = 0;
            for (int c = 0; c < table->model()->columnCount(); ++c)
                sum += table->columnWidth(c);
            return sum;
        };
        QTRY_VERIFY2(all() > table->viewport()->width() - 20 && all() <= table->viewport()->width() + 1,
                     qPrintable(QString("%1 of %2").arg(all()).arg(table->viewport()->width())));
    }
    void aProtectedValueIsAskedAbout() {
        openDemo();
        w_->showStage("weave");
        session().choose("chair", "chair.preamp");
        settle();
        session().setProgram(
            project::withProtection(*session().program(), "chair.preamp", "gain", "set with the chair's own voice"),
            "Protect");
        const auto gain = [&] { return block("chair.preamp").values.at("gain"); };
        const double before = gain();
        auto* bar = view<GuardBar>();
        settle();
        typeInto(field("chair.preamp.gain"), "12");
        QVERIFY(bar->isVisible() && bar->findChild<QLabel*>()->text().contains("own voice"));
        QCOMPARE(gain(), before);
        press("guard.leave");
        QVERIFY(!bar->isVisible());
        QCOMPARE(gain(), before);
        typeInto(field("chair.preamp.gain"), "12");
        press("guard.change");
        QCOMPARE(gain(), 12.0);
        QTest::keyClick(field("chair.preamp.gain"), Qt::Key_Up); // meant once: not asked at every step
        QVERIFY(gain() > 12 && !bar->isVisible());
        session().choose("chair", "chair.eq");
        session().choose("chair", "chair.preamp");
        settle();
        typeInto(field("chair.preamp.gain"), "20");
        QVERIFY(bar->isVisible() && gain() < 20);
        activate();
        QTest::keyClick(w_.get(), Qt::Key_Return, Qt::AltModifier);
        QCOMPARE(gain(), 20.0);
        QVERIFY(field("chair.preamp.gain")->toolTip().contains("protected: set with"));
        session().choose("chair", "chair.eq");
        w_->commands().run("anyway"); // nothing is held
        QVERIFY2(said_.contains("Nothing protected"), qPrintable(said_));
    }
    void notesAndProtectionsAreWrittenByHand() {
        openDemo();
        w_->showStage("weave");
        auto* weave = view<WeaveView>();
        session().choose("chair", "chair.eq");
        weave->setFocus();
        answer("the lectern booms");
        QTest::keyClick(weave, Qt::Key_N);
        QCOMPARE(project::noteOf(block("chair.eq")), std::string("the lectern booms"));
        const auto* line = w_->findChild<QLabel*>("chair.eq.remark");
        QVERIFY(line && line->text() == "the lectern booms");
        weave->setFocus();
        answer("tuned on site");
        QTest::keyClick(weave, Qt::Key_K);
        QCOMPARE(project::protectionOf(block("chair.eq")), std::string("tuned on site"));
        weave->setFocus();
        QTest::keyClick(weave, Qt::Key_Delete);
        QVERIFY(session().program()->find("chair.eq") && view<GuardBar>()->isVisible());
        weave->setFocus();
        QTest::keyClick(weave, Qt::Key_K); // taken off
        QVERIFY(project::protectionOf(block("chair.eq")).empty());
        QTest::keyClick(weave, Qt::Key_Delete);
        QVERIFY(!session().program()->find("chair.eq"));
    }
};

LOOM_TEST(tst_first_look, TestFirstLook)
#include "tst_first_look.moc"
