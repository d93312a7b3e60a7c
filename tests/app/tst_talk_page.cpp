// Talk driven by keys and mouse on the demo: a first pass with one proposal left out, undone; a run that is cancelled.
#include "app/talk/first_pass_deck.h"
#include "app/talk/talk_page.h"
#include "app/talk/talk_view.h"
#include "app/text.h"
#include "models.h"
#include "test.h"
#include "window_test.h"
#include <QPushButton>
#include <QTreeWidget>

using namespace loom;
using namespace loom::app;

class TestTalkPage : public WindowTest {
    Q_OBJECT
    TalkState& state() { return view<TalkPage>()->state(); }
    QTreeWidget* list() { return w_->findChild<QTreeWidget*>("firstPassList"); }
    QPushButton* button(const char* name) { return w_->findChild<QPushButton*>(name); }
    void plan() {
        QTest::mouseClick(button("talkFirstPass"), Qt::LeftButton);
        QTRY_VERIFY(state().pass() && !state().planning());
    }

  private slots:
    void initTestCase() { beginAll(); }
    void init() {
        begin("survey");
        openDemo();
        w_->showStage("talk");
        QTest::qWait(1);
    }
    void cleanup() { end(); }

    void aFirstPassIsTickedDoneAndUndone() {
        QCOMPARE(state().space().key, std::string("council"));
        QCOMPARE(state().talk().microphones.size(), 10u);
        const auto before = project();
        plan();
        QVERIFY(project() == before); // nothing is done before the button
        QVERIFY(list()->isVisible() &&
                list()->topLevelItemCount() == static_cast<int>(state().pass()->proposals.size()));
        const auto row = [&](const char* id) -> QTreeWidgetItem* {
            for (int i = 0; i < list()->topLevelItemCount(); ++i)
                if (list()->topLevelItem(i)->data(0, Qt::UserRole) == id)
                    return list()->topLevelItem(i);
            return nullptr;
        };
        auto* hand = row("preamp heddle/delegate-4");
        QVERIFY(hand && hand->checkState(0) == Qt::Unchecked && hand->text(2) == "by hand");
        QVERIFY(row("group heddle")->checkState(0) == Qt::Checked);
        // One is left out, by the keyboard; the count on the button follows.
        const auto ticked = state().tickedCount();
        list()->setCurrentItem(row("mute-places council"));
        list()->setFocus();
        QTest::keyClick(list(), Qt::Key_Space);
        QCOMPARE(state().tickedCount(), ticked - 1);
        QVERIFY(button("firstPassTake")->text().contains(QString::number(ticked - 1)));
        QTest::mouseClick(button("firstPassTake"), Qt::LeftButton);
        QCOMPARE(state().talk().groups.size(), 1u);
        QCOMPARE(project().device("heddle")->program->find("delegate-4.preamp")->values.at("gain"), 35.0);
        QVERIFY(project().device("council-tap")->mutes.empty());
        // What is left is proposed anew: what was left out, and what was set by hand.
        QTRY_VERIFY(state().pass() && !state().planning());
        QVERIFY(row("mute-places council") && !row("group heddle") && row("preamp heddle/delegate-4"));
        w_->session().undo();
        QVERIFY(project() == before);
        QCOMPARE(state().talk().groups.size(), 0u);
    }
    void spacesAndMicrophonesAreChosen() {
        auto* talk = view<TalkView>();
        QTest::mouseClick(talk, Qt::LeftButton, {}, talk->rowRect(2).center().toPoint());
        QCOMPARE(state().microphone(), 2);
        QTest::keyClick(talk, Qt::Key_Down);
        QCOMPARE(state().microphone(), 3);
        QCOMPARE(w_->session().lane(), q(state().talk().microphones[3].source));
        QTest::mouseClick(w_->findChild<QPushButton*>("talkSpace tern+plover"), Qt::LeftButton);
        QCOMPARE(state().space().state, std::string("joined"));
        QCOMPARE(state().talk().microphones.size(), 4u);
    }
    void aRunIsCancelled() {
        const auto before = project();
        QTest::keyClick(view<TalkView>(), Qt::Key_P);
        QVERIFY(state().proving());
        QVERIFY(button("talkProve")->text().startsWith("Cancel"));
        QTest::mouseClick(button("talkProve"), Qt::LeftButton);
        QTRY_VERIFY_WITH_TIMEOUT(!state().proving(), 20000);
        QVERIFY(!state().proof() && project() == before);
    }
};
LOOM_TEST(tst_talk_page, TestTalkPage)
#include "tst_talk_page.moc"
