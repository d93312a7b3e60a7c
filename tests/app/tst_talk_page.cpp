// Talk driven by keys and mouse on the demo: a first pass with one proposal left out, undone; a run that is cancelled.
#include "app/talk/first_pass_deck.h"
#include "app/talk/mix_view.h"
#include "app/talk/mute_view.h"
#include "app/talk/talk_page.h"
#include "app/talk/talk_view.h"
#include "app/talk/whose_view.h"
#include "app/text.h"
#include "models.h"
#include "sanitized.h"
#include "talk/talk_fields.h"
#include "test.h"
#include "window_test.h"
#include <QPushButton>
#include <QTreeWidget>

using namespace loom;
using namespace loom::app;

using test::sanitized;

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
    void mixesByMouseAndKeys() {
        press("talkMixes");
        auto* mixes = view<MixView>();
        QVERIFY(mixes->isVisible() && mixes->hasFocus());
        const auto& m = state().mixes();
        const auto at = [&](const char* talker, const char* listener) {
            return MixView::Cell{static_cast<int>(*project::talkerSaid(m, talker)),
                                 static_cast<int>(*project::listenerSaid(m, listener))};
        };
        const auto level = [&](const MixView::Cell& c) {
            return state().mixes().at(static_cast<std::size_t>(c.talker), static_cast<std::size_t>(c.listener)).db;
        };
        const auto chair = at("Chair", "Recorder"), own = at("Far end", "Far-end send");
        QCOMPARE(level(chair), 0.0);
        QTest::mouseClick(mixes, Qt::LeftButton, {}, mixes->cellRect(chair).center().toPoint());
        QVERIFY(level(chair) < -79 && mixes->words().contains("Chair in Recorder: closed"));
        QTest::keyClick(mixes, Qt::Key_Space);
        QCOMPARE(level(chair), 0.0); // as loud as the delegates
        QTest::keyClick(mixes, Qt::Key_Minus);
        QCOMPARE(level(chair), -1.0);
        answer(QString("-4.5"));
        QTest::keyClick(mixes, Qt::Key_L);
        QCOMPARE(level(chair), -4.5);
        QTest::keyClick(mixes, Qt::Key_Down);
        QVERIFY(mixes->chosen() == (MixView::Cell{chair.talker + 1, chair.listener}));
        mixes->choose(own);
        QTest::keyClick(mixes, Qt::Key_Return); // left out by itself, and stays so
        QVERIFY(level(own) < -79 && mixes->words().contains("its own sound"));
        while (w_->session().history().canUndo())
            w_->session().undo();
        QCOMPARE(level(chair), 0.0);
    }
    void mutesByMouseAndKeys() {
        press("talkMute");
        auto* mutes = view<MuteView>();
        const auto place = [&](const char* device) {
            const auto& all = state().mutes().places;
            for (std::size_t i = 0; i < all.size(); ++i)
                if (all[i].device == device)
                    return static_cast<int>(i);
            return -1;
        };
        const int tap = place("council-tap");
        QTest::mouseClick(mutes, Qt::LeftButton, {}, mutes->pillRect(tap, 0).center().toPoint());
        QCOMPARE(project().device("council-tap")->mutes.at("self"), std::string("sets"));
        QTest::keyClick(mutes, Qt::Key_Right);
        QCOMPARE(project().device("council-tap")->mutes.at("self"), std::string("shows"));
        QVERIFY(mutes->nothingCuts());
        QTest::mouseClick(mutes, Qt::LeftButton, {}, mutes->cutRect().center().toPoint());
        QVERIFY(!mutes->nothingCuts() && state().talk().farEnds[0].mutes.size() == 1);
        QTest::keyClick(mutes, Qt::Key_M); // nothing runs that could be muted: it says so
        QVERIFY(!state().mutedNow());
        QTest::keyClick(mutes, Qt::Key_F5);
        QTRY_VERIFY_WITH_TIMEOUT(w_->session().bench().running(), 20000);
        QTest::keyClick(mutes, Qt::Key_M);
        QCOMPARE(state().mutedNow("heddle", "cut"), std::optional(true));
        press("talkMuteNow");
        QCOMPARE(state().mutedNow("heddle", "cut"), std::optional(false));
        QTest::keyClick(mutes, Qt::Key_F5);
    }
    void portsAreDraggedToRooms() {
        press("talkWhose");
        auto* whose = view<WhoseView>();
        const auto from = whose->chipRect("heddle", "in 15").center().toPoint();
        QVERIFY(!whose->chipRect("heddle", "in 15").isEmpty());
        dragOn(whose, from, {static_cast<int>(whose->columnRect("foyer").center().x()), from.y()});
        QCOMPARE(project().device("heddle")->owners.at("in 15"), std::string("foyer"));
        QTest::keyClick(whose, Qt::Key_Down);
        QVERIFY(!whose->chosen().empty());
        w_->session().undo();
        QVERIFY(!project().device("heddle")->owners.count("in 15"));
        QTest::mouseClick(whose, Qt::LeftButton, {}, whose->chipRect("heddle", "in 16").center().toPoint());
        answer(QString("Tern Room"));
        QTest::keyClick(whose, Qt::Key_G);
        QCOMPARE(project().device("heddle")->owners.at("in 16"), std::string("tern"));
        QTest::mouseClick(whose, Qt::LeftButton, {},
                          whose->chipRect("heddle-8-rack-a", "contact 2").center().toPoint());
        answer(QString("Folding wall"));
        QTest::keyClick(whose, Qt::Key_W);
        QCOMPARE(project().device("heddle-8-rack-a")->contacts.at("contact 2"), std::string("wall fold tern+plover"));
    }
    // From rooms with devices and nothing made, by events alone: done, set by hand, proved, joined, and back again.
    void fromNothingToAProofAndBack() {
        auto p = project();
        p.device("heddle-8-rack-a")->program = engine::Program{};
        p.device("heddle-8-rack-a")->owners = {{"usb 1", "tern"}, {"usb 2", "plover"}};
        p.device("heddle-8-rack-a")->contacts = {{"contact 1", "wall fold tern+plover"}};
        for (const char* id : {"tern", "plover"})
            p.room(id)->targets.level = 62;
        open(p, "empty");
        w_->showStage("talk");
        const auto start = project();
        state().choose("tern");
        const auto row = [&](const std::string& id) -> QTreeWidgetItem* {
            for (int i = 0; i < list()->topLevelItemCount(); ++i)
                if (list()->topLevelItem(i)->data(0, Qt::UserRole).toString() == q(id))
                    return list()->topLevelItem(i);
            return nullptr;
        };
        const auto taken = [&] {
            QTest::mouseClick(button("firstPassTake"), Qt::LeftButton);
            QTRY_VERIFY(!state().planning() && state().pass());
        };
        plan();
        for (const char* id : {"lanes heddle-8-rack-a", "zones heddle-8-rack-a", "far-end heddle-8-rack-a/usb 1",
                               "mixes heddle-8-rack-a", "echo heddle-8-rack-a", "group heddle-8-rack-a",
                               "mute heddle-8-rack-a", "mute-places tern"})
            QVERIFY2(row(id) && row(id)->checkState(0) == Qt::Checked, id);
        list()->setFocus();
        for (const char* id : {"mute-places tern", "highpass heddle-8-rack-a/tern-handheld"})
            if (auto* one = row(id)) {
                list()->setCurrentItem(one);
                QTest::keyClick(list(), Qt::Key_Space);
            }
        taken();
        QVERIFY(row("mute-places tern") && state().talk().groups.size() == 1);
        QVERIFY(project().device("tern-tap")->mutes.empty());
        // One value by hand, in the deck; run again, it is not touched.
        QTest::mouseClick(button("firstPassDrop"), Qt::LeftButton);
        auto* limit = w_->findChild<QWidget*>("field.group.limit");
        QVERIFY(limit && limit->isVisible());
        QVERIFY(state().edit(project::setTalkField(project(), state().talk(), 0, -1, "group.limit", "1")));
        plan();
        for (const auto& one : state().pass()->proposals)
            QVERIFY2(one.id == "mute-places tern" || one.id.find("highpass") == 0 || one.byHand, one.id.c_str());
        const auto prove = [&] {
            QTest::mouseClick(button("talkProve"), Qt::LeftButton);
            QTRY_VERIFY_WITH_TIMEOUT(!state().proving() && state().proof(), 120000);
            QVERIFY(state().kept() && !state().kept()->figures.empty());
        };
        if (!sanitized)
            prove();
        // The wall opens: the larger room has a group of its own.
        QTest::mouseClick(button("talkSpace tern+plover"), Qt::LeftButton);
        plan();
        QVERIFY(row("mixes heddle-8-rack-a|fold"));
        taken();
        QCOMPARE(state().talk().groups.size(), 1u);
        QCOMPARE(state().talk().microphones.size(), 4u);
        QCOMPARE(project().device("heddle-8-rack-a")->program->find(state().talk().groups[0].block)->marks.at("walls"),
                 std::string("fold"));
        if (!sanitized)
            prove();
        // What it gets now and before can be heard.
        if (!sanitized && state().proof()) {
            QVERIFY(button("talkHear")->isVisible());
        }
        while (w_->session().history().canUndo())
            w_->session().undo();
        auto now = project();
        now.proofs = start.proofs; // what was measured is no step
        QVERIFY(now == start);
    }
    void allRoomsAreOneStep() {
        const auto before = project();
        QVERIFY(w_->commands().run("talk.allRooms"));
        QTRY_VERIFY(!state().planning() && state().passes());
        QVERIFY(project() == before);
        QVERIFY(button("firstPassTake")->text().startsWith("Do all"));
        QTest::mouseClick(button("firstPassTake"), Qt::LeftButton);
        QVERIFY(state().talk().groups.size() == 1 && !state().passes());
        w_->session().undo();
        QVERIFY(project() == before);
        QVERIFY(w_->commands().run("talk.allRooms"));
        QTest::mouseClick(button("firstPassDrop"), Qt::LeftButton); // cancelled
        QTRY_VERIFY(!state().planning());
        QVERIFY(!state().passes() && project() == before);
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
