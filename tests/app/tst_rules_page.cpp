// Rules driven by keys and mouse on the demo: a rule from nothing, its gaps, a scene, a rehearsed day, a test that
// fails.
#include "app/rules/gap_picker.h"
#include "app/rules/occasion_list.h"
#include "app/rules/rehearsal_deck.h"
#include "app/rules/rule_line.h"
#include "app/rules/rule_view.h"
#include "app/rules/rules_page.h"
#include "app/rules/scene_table.h"
#include "app/text.h"
#include "test.h"
#include "window_test.h"
#include <QListWidget>

using namespace loom;
using namespace loom::app;

class TestRulesPage : public WindowTest {
    Q_OBJECT
    static constexpr const char* level = "heddle-8-rack-a/tern.level.gain";
    RulesState& state() { return view<RulesPage>()->state(); }
    RuleView* rules() { return view<RuleView>(); }
    RuleLine* line() { return view<RuleLine>(); }
    QListWidget* occasions() { return w_->findChild<QListWidget*>("occasionList"); }
    void typeLine(const QString& text) {
        line()->setFocus();
        line()->clear();
        QTest::keyClicks(line(), text);
        QTest::keyClick(line(), Qt::Key_Return);
    }
    QListWidgetItem* occasion(const QString& label) {
        for (int i = 0; i < occasions()->count(); ++i)
            if (occasions()->item(i)->text() == label)
                return occasions()->item(i);
        return nullptr;
    }
    void chooseOccasion(const QString& label) {
        QTRY_VERIFY2(occasion(label), qPrintable(label)); // the list is filled a little after the project
        occasions()->scrollToItem(occasion(label));
        QTest::mouseClick(occasions()->viewport(), Qt::LeftButton, {},
                          occasions()->visualItemRect(occasion(label)).center());
    }
    // A rule for the wall, as somebody makes it who has never seen the stage.
    void makeRule() {
        chooseOccasion("Folding wall becomes open");
        answer(QStringList{"Seminar"});
        rules()->setFocus();
        QTest::keyClick(rules(), Qt::Key_N);
        QTRY_COMPARE(project().rules.size(), std::size_t(1));
        typeLine("then set Tern zone level \u00b7 Level to -20 dB");
        QCOMPARE(project().rules[0].then.size(), std::size_t(1));
    }
    void begin(const char* at) {
        auto* field = w_->findChild<QLineEdit*>("rehearsalBegins");
        field->setText(at);
        press("rehearsalBegin");
        QVERIFY(state().rehearsal());
    }
    void happens(const QString& what) {
        auto* field = w_->findChild<QLineEdit*>("rehearsalHappens");
        QTest::keyClicks(field, what);
        QTest::keyClick(field, Qt::Key_Escape); // what the list offers is not taken
        QTest::keyClick(field, Qt::Key_Return);
    }

  private slots:
    void initTestCase() { beginAll(); }
    void init() {
        WindowTest::begin("survey");
        openDemo();
        w_->showStage("rules");
        QTest::qWait(1);
    }
    void cleanup() { end(); }

    void aRuleFromNothing() {
        QVERIFY(project().rules.empty());
        makeRule();
        const auto& r = project().rules[0];
        QVERIFY(r.name == "Seminar" && r.when.size() == 1 && r.when[0].gaps.at("signal") == "wall:fold");
        QCOMPARE(r.then[0].gaps.at("signal"), std::string(level));
        typeLine("only if it is between 8:00 and 18:00");
        typeLine("else note too late");
        typeLine("make tea");
        QVERIFY(said_.contains("no sentence"));
        QCOMPARE(line()->text(), QString("make tea")); // to be put right
        QCOMPARE(project().rules[0].only.size(), std::size_t(1));
        QCOMPARE(project().rules[0].otherwise.size(), std::size_t(1));
        for (int i = 0; i < 4; ++i)
            session().undo();
        QVERIFY(project().rules.empty());
        session().redo();
        QCOMPARE(project().rules.size(), std::size_t(1));
    }
    void whatIsOfferedIsTaken() {
        makeRule();
        line()->setFocus();
        line()->clear();
        QTest::keyClicks(line(), "then wai");
        QTRY_VERIFY(line()->list()->isVisible() && line()->list()->count() > 0);
        QTest::keyClick(line(), Qt::Key_Tab);
        QCOMPARE(line()->text(), QString("then wait "));
        QTRY_VERIFY(line()->list()->isVisible() && line()->list()->item(0)->text().contains("0.5 s"));
        QTest::keyClick(line(), Qt::Key_Down);
        QTest::keyClick(line(), Qt::Key_Return);
        QVERIFY(line()->text().startsWith("then wait ") && line()->text().endsWith(" s"));
        QTest::keyClick(line(), Qt::Key_Escape);
        QTest::keyClick(line(), Qt::Key_Return);
        QCOMPARE(project().rules[0].then.size(), std::size_t(2));
    }
    void gapsByMouseAndKeys() {
        makeRule();
        const auto id = project().rules[0].id;
        auto* picker = view<GapPicker>();
        const auto at = rules()->gapRect(id, {project::RulePart::then, 0}, "state");
        QVERIFY(!at.isNull());
        QTest::mouseClick(rules(), Qt::LeftButton, {}, at.center().toPoint());
        QVERIFY(picker->isVisible());
        QTest::keyClicks(picker->findChild<QLineEdit*>(), "-12");
        QTest::keyClick(picker->findChild<QLineEdit*>(), Qt::Key_Return);
        QVERIFY(!picker->isVisible());
        QCOMPARE(project().rules[0].then[0].gaps.at("state"), std::string("-12"));
        // By keys: the trigger's state, from the list.
        rules()->setFocus();
        state().choose(id);
        QTest::keyClick(rules(), Qt::Key_Down);
        QVERIFY(state().line() == (RuleLineAt{project::RulePart::when, 0}));
        QTest::keyClick(rules(), Qt::Key_Right);
        QTest::keyClick(rules(), Qt::Key_Right);
        QCOMPARE(state().gap(), std::string("state"));
        QTest::keyClick(rules(), Qt::Key_Return);
        QVERIFY(picker->isVisible());
        QTest::keyClick(picker->findChild<QLineEdit*>(), Qt::Key_Down);
        QTest::keyClick(picker->findChild<QLineEdit*>(), Qt::Key_Return);
        QCOMPARE(project().rules[0].when[0].gaps.at("state"), std::string("closed"));
        // What cannot be stays as it was, and why is told.
        state().chooseOccasion({});
        state().choose(id, {project::RulePart::then, 0}, "state");
        QTest::keyClick(rules(), Qt::Key_F2);
        QTest::keyClicks(picker->findChild<QLineEdit*>(), "loud");
        QTest::keyClick(picker->findChild<QLineEdit*>(), Qt::Key_Return);
        QCOMPARE(project().rules[0].then[0].gaps.at("state"), std::string("-12"));
        // Off by its switch, on by Space; a line moved and taken out.
        QTest::mouseClick(rules(), Qt::LeftButton, {}, rules()->switchRect(id).center().toPoint());
        QVERIFY(!project().rules[0].on);
        QTest::keyClick(rules(), Qt::Key_Space);
        QVERIFY(project().rules[0].on);
        typeLine("then note done");
        rules()->setFocus();
        QTest::keyClick(rules(), Qt::Key_Up, Qt::ControlModifier);
        QCOMPARE(project().rules[0].then[0].kind, std::string("note"));
        QTest::keyClick(rules(), Qt::Key_Delete);
        QCOMPARE(project().rules[0].then.size(), std::size_t(1));
    }
    void aSceneFromNow() {
        answer({"Quiet", "tern zone level level"});
        press("keepScene");
        QTRY_COMPARE(project().scenes.size(), std::size_t(1));
        QVERIFY(project().scenes[0].values.count(level));
        auto* table = view<SceneTable>();
        const auto* model = table->model();
        int row = 0;
        while (row < model->rowCount() && model->index(row, 0).data(Qt::ToolTipRole).toString().indexOf(level) != 0)
            ++row;
        QVERIFY(row < model->rowCount());
        QVERIFY(table->model()->setData(model->index(row, 1), "-30"));
        QCOMPARE(project().scenes[0].values.at(level), -30.0);
        QVERIFY(!table->model()->setData(table->model()->index(row, 1), "loud"));
        press("recallScene");
        const auto* tern = project().device("heddle-8-rack-a")->program->find("tern.level");
        QCOMPARE(tern->values.at("gain"), -30.0);
        table->setFocus();
        table->setCurrentIndex(table->model()->index(row, 1));
        QTest::keyClick(table, Qt::Key_Delete);
        QVERIFY(!project().scenes[0].values.count(level));
    }
    void aDayIsRehearsedAndKept() {
        makeRule();
        begin("2026-11-30 08:00");
        happens("Folding wall open");
        QCOMPARE(state().rehearsal()->value(level).value_or(0), -20.0);
        auto* why = w_->findChild<QListWidget*>("rehearsalWhy");
        const auto told = [&](const QString& text) {
            for (int i = 0; i < why->count(); ++i)
                if (why->item(i)->text().contains(text))
                    return true;
            return false;
        };
        QVERIFY(told("woke") && told("to \u221220.0 dB"));
        auto* day = view<DayView>();
        state().goTo(60 * project::minute);
        QTest::mouseClick(day, Qt::LeftButton, {},
                          QPoint(static_cast<int>(day->xOf(4 * 60 * project::minute)), 20)); // ahead
        QVERIFY(std::abs(state().rehearsal()->now() - 4 * 60 * project::minute) < 5 * project::minute);
        press("rehearsalPlay");
        const auto before = state().rehearsal()->now();
        QTRY_VERIFY(state().rehearsal()->now() > before);
        press("rehearsalPlay");
        QVERIFY(!state().playing());
        answer(QStringList{"The wall"});
        press("rehearsalKeep");
        QTRY_COMPARE(project().ruleTests.size(), std::size_t(1));
        QTRY_VERIFY(state().tests() && state().tests()->hold == 1);
        // The rule is broken: the same day is gone through again, and the test says so.
        const auto id = project().rules[0].id;
        state().choose(id, {project::RulePart::then, 0}, "state");
        state().fill("state", "-3 dB");
        QTRY_COMPARE(state().rehearsal()->value(level).value_or(0), -3.0);
        QTRY_VERIFY(state().tests() && state().tests()->fail == 1);
        waitForFinding("instead of");
        press("rehearsalBegin");
        QVERIFY(!state().rehearsal());
    }
    void foundAndCopied() {
        makeRule();
        w_->showStage("survey");
        pick("rule Seminar");
        QVERIFY(rules()->isVisible() && state().rule() && state().rule()->name == "Seminar");
        QVERIFY(w_->commands().run("rules.copy"));
        QCOMPARE(project().rules.size(), std::size_t(2));
        QVERIFY(w_->commands().run("rules.again"));
        QVERIFY(project().rules[0].again == project::Rule::Again::ignore);
    }
};

LOOM_TEST(tst_rules_page, TestRulesPage)
#include "tst_rules_page.moc"
