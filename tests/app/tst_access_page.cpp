// Control from outside in the window, and what is dragged to rules: by mouse, keys and find-or-do.
#ifndef Q_MOC_RUN
#include "access/access_edit.h"
#endif
#include "app/field_form.h"
#include "app/parameter_drag.h"
#include "app/rules/access_panel.h"
#include "app/rules/rule_line.h"
#include "app/rules/rule_view.h"
#include "app/rules/rules_page.h"
#include "app/rules/signal_picker.h"
#include "app/shell/rail.h"
#include "app/text.h"
#include "test.h"
#include "window_test.h"
#include <QListWidget>

using namespace loom;
using namespace loom::app;

class TestAccessPage : public WindowTest {
    Q_OBJECT
    static constexpr const char* rack = "heddle-8-rack-a";
    AccessPanel* panel() { return view<AccessPanel>(); }
    const project::Access* access() { return project().accessOf(panel()->device()->id); }
    // Types into what opened over the panel, and takes the first that fits.
    void choose(const QString& words) {
        auto* picker = view<SignalPicker>();
        QTRY_VERIFY(picker->isVisible());
        auto* field = picker->findChild<QLineEdit*>();
        QTest::keyClicks(field, words);
        QVERIFY(picker->findChild<QListWidget*>()->count() > 0);
        QTest::keyClick(field, Qt::Key_Return);
        QVERIFY(!picker->isVisible());
    }
    void drop(QWidget* on, const QString& path, const QPointF& at) {
        const std::unique_ptr<QMimeData> mime(parameterMime({path}));
        QDragEnterEvent enter(at.toPoint(), Qt::CopyAction, mime.get(), Qt::LeftButton, Qt::NoModifier);
        QApplication::sendEvent(on, &enter);
        QVERIFY(enter.isAccepted());
        QDragMoveEvent move(at.toPoint(), Qt::CopyAction, mime.get(), Qt::LeftButton, Qt::NoModifier);
        QApplication::sendEvent(on, &move);
        QDropEvent dropped(at, Qt::CopyAction, mime.get(), Qt::LeftButton, Qt::NoModifier);
        QApplication::sendEvent(on, &dropped);
    }

  private slots:
    void initTestCase() { beginAll(); }
    void init() {
        WindowTest::begin("survey");
        openDemo();
        w_->showStage("rules");
        view<RulesPage>()->show(RulesPage::Side::access);
        panel()->chooseDevice(rack);
        QTest::qWait(1);
    }
    void cleanup() { end(); }

    void somethingIsAllowed() {
        QVERIFY(!access() && panel()->isVisible());
        press("allow");
        choose("tern zone level level");
        QVERIFY(access());
        QCOMPARE(access()->allowed.size(), std::size_t(1));
        QCOMPARE(access()->allowed[0].signal, std::string(rack) + "/tern.level.gain");
        QVERIFY(access()->allowed[0].sets);
        auto* fields = panel()->findChild<FieldForm*>("allowedFields");
        typeInto(fields->findChild<QLineEdit*>("field.name"), "tern");
        QCOMPARE(access()->allowed[0].name, "tern");
        typeInto(fields->findChild<QLineEdit*>("field.low"), "-40");
        QCOMPARE(*access()->allowed[0].low, -40.0);
        typeInto(fields->findChild<QLineEdit*>("field.name"), "No Name");
        QCOMPARE(access()->allowed[0].name, "tern");
        QVERIFY2(said_.contains("small letters"), qPrintable(said_));
        auto* ways = panel()->findChild<FieldForm*>("accessFields");
        QVERIFY(!ways->findChild<QLineEdit*>("field.oscPort")); // as long as it is not open
        session().edit(*Result<project::Edit>(project::setAccessField(rack, "osc", "yes")));
        typeInto(ways->findChild<QLineEdit*>("field.oscTo"), "192.0.2.9:9000");
        QCOMPARE(access()->oscTo.size(), std::size_t(1));
        typeInto(fields->findChild<QLineEdit*>("field.role"), "technician");
        press("accessPin");
        QVERIFY2(said_.contains("not reached"), qPrintable(said_));
        // Another by find-or-do; out again with a key, and back.
        pick("allow others to know");
        choose("tern handheld mute");
        QCOMPARE(access()->allowed.size(), std::size_t(2));
        panel()->list()->setFocus();
        QTest::keyClick(panel()->list(), Qt::Key_Delete);
        QCOMPARE(access()->allowed.size(), std::size_t(1));
        session().undo();
        QCOMPARE(access()->allowed.size(), std::size_t(2));
        w_->showStage("survey");
        pick("from outside heddle 8 rack");
        QTRY_VERIFY(panel()->isVisible());
    }

    void whatOthersHaveIsNotOffered() {
        const auto others = project::findDrives(project(), "delegate", 1, "heddle");
        QVERIFY(!others.empty());
        press("allow");
        auto* picker = view<SignalPicker>();
        auto* field = picker->findChild<QLineEdit*>();
        QTest::keyClicks(field, "delegate"); // of the other processor
        QCOMPARE(picker->findChild<QListWidget*>()->count(), 0);
        QTest::keyClick(field, Qt::Key_Escape);
        QVERIFY(!picker->isVisible() && !access());
        drop(panel(), q(others[0].path), {20, 20});
        QVERIFY(!access());
        QVERIFY2(said_.contains("Allow it on"), qPrintable(said_));
    }

    // A parameter that is dragged: onto the panel, a gap, a card.
    void whatIsDragged() {
        drop(panel(), QString(rack) + "/tern.level.gain", {20, 20});
        QCOMPARE(access()->allowed.size(), std::size_t(1));
        answer(QStringList{"Probe"});
        view<RuleView>()->setFocus();
        QTest::keyClick(view<RuleView>(), Qt::Key_N);
        QTRY_COMPARE(project().rules.size(), std::size_t(1));
        auto* line = view<RuleLine>();
        QTest::keyClicks(line, "then set Tern zone level \u00b7 Level to -20 dB");
        QTest::keyClick(line, Qt::Key_Return);
        QCOMPARE(project().rules[0].then.size(), std::size_t(1));
        const auto id = project().rules[0].id;
        const auto gap = view<RuleView>()->gapRect(id, {project::RulePart::then, 0}, "signal");
        QVERIFY(!gap.isNull());
        drop(view<RuleView>(), QString(rack) + "/plover.level.gain", gap.center());
        QCOMPARE(project().rules[0].then[0].gaps.at("signal"), std::string(rack) + "/plover.level.gain");
        drop(view<RuleView>(), "wall:fold", view<RuleView>()->ruleRect(id).topLeft() + QPointF(20, 10));
        QVERIFY2(line->text().startsWith("when "), qPrintable(line->text()));
        drop(view<RuleView>(), "bead:heddle/chair-eq", view<RuleView>()->ruleRect(id).topLeft() + QPointF(20, 10));
        QVERIFY2(said_.contains("single values"), qPrintable(said_));
    }

    // What is dragged over the rail turns to another stage.
    void overTheRail() {
        auto* rail = view<Rail>();
        const std::unique_ptr<QMimeData> mime(parameterMime({"heddle/chair.level.gain"}));
        const QPoint at = rail->stageRect(1).center().toPoint();
        QDragEnterEvent enter(at, Qt::CopyAction, mime.get(), Qt::LeftButton, Qt::NoModifier);
        QApplication::sendEvent(rail, &enter);
        QVERIFY(enter.isAccepted());
        QDragMoveEvent move(at, Qt::CopyAction, mime.get(), Qt::LeftButton, Qt::NoModifier);
        QApplication::sendEvent(rail, &move);
        QVERIFY(!move.isAccepted());
        QCOMPARE(rail->current(), 1);
    }
};

LOOM_TEST(tst_access_page, TestAccessPage)
#include "tst_access_page.moc"
