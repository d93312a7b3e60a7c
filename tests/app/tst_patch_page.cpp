// Patch driven by keys and mouse on the demo: a stream is offered and heard by three devices, a limit exceeded and
// cured, a ring link and a switch link cut, receivers aligned, all of it undone.
#include "app/field_form.h"
#include "app/patch/hear_view.h"
#include "app/patch/patch_deck.h"
#include "app/patch/patch_page.h"
#include "app/patch/wire_view.h"
#include "app/text.h"
#include "models.h"
#include "window_test.h"
#ifndef Q_MOC_RUN
#include "patch/figures.h"
#endif
#include "test.h"
#include <QClipboard>
#include <QLabel>
#include <QListWidget>
#include <QPlainTextEdit>

using namespace loom;
using namespace loom::app;

class TestPatchPage : public WindowTest {
    Q_OBJECT

    PatchPage* page() { return view<PatchPage>(); }
    PatchState& state() { return page()->state(); }
    HearView* hears() { return view<HearView>(); }
    WireView* wires() { return view<WireView>(); }
    const project::Device& device(const char* id) { return *project().device(id); }

    void scrollTo(QAbstractScrollArea* area, const std::function<QRectF()>& where) {
        auto* bar = area->verticalScrollBar();
        bar->setValue(0);
        bar->setValue(std::max(0, int(where().top()) - 60));
    }
    // A drag between two places that may have to be scrolled to: both have to be in sight.
    void drag(const QRectF& from, const QRectF& to) {
        QVERIFY(!from.isEmpty() && !to.isEmpty());
        dragOn(hears()->viewport(), from.center(), to.center());
    }
    void click(QWidget* on, const QRectF& at, Qt::KeyboardModifiers keys = {}) {
        QVERIFY(!at.isEmpty());
        QTest::mouseClick(on, Qt::LeftButton, keys, at.center().toPoint());
    }

  private slots:
    void initTestCase() { beginAll(); }
    void init() {
        begin("survey");
        openDemo();
        w_->showStage("patch");
        state().showTransport(project::Transport::network);
        QTest::qWait(1);
    }
    void cleanup() { end(); }

    void offeredHeardExceededCuredAndUndone() {
        const auto before = project();
        // Four channels of the second processor, by the button and its question.
        answer(QStringList{"Heddle 8 \u00b7 rack A", "quad", "net 5-8", "24 bits", "1"});
        page()->offer();
        QVERIFY(state().isChosen("heddle-8-rack-a/quad"));
        QCOMPARE(device("heddle-8-rack-a").streams.back().ports.size(), std::size_t(4));
        auto* takes = w_->findChild<QLabel*>("patchTakes");
        QVERIFY(takes->text().contains("3 of 32 flows"));
        QVERIFY(takes->text().contains("5.23 Mbit/s")); // 4 x 3 x 48 bytes, 78 of headers, 8000 times: 5.232 Mbit/s
        // Three devices hear it: dragged onto a card, onto an input, and typed.
        drag(hears()->rowRect("heddle-8-rack-a/quad"), hears()->takerRect("heddle"));
        QCOMPARE(device("heddle").receivers.back().inputs.front(), std::string("net 1"));
        hears()->verticalScrollBar()->setValue(hears()->verticalScrollBar()->maximum());
        drag(hears()->rowRect("heddle-8-rack-a/quad"), hears()->slotRect("shuttle-8-stage", "net 4"));
        QCOMPARE(device("shuttle-8-stage").receivers.back().inputs.front(), std::string("net 4"));
        hears()->setFocus();
        QTest::keyClick(hears(), Qt::Key_Return);
        QVERIFY(page()->phrase()->hasFocus());
        typeInto(page()->phrase(), "> hall");
        QCOMPARE(device("treadle-4-hall").receivers.size(), std::size_t(1));
        QCOMPARE(w_->findChild<QListWidget*>("patchHears")->count(), 3);
        // A fifth stream is one too many for the amplifier's four inputs; said before anything is done.
        typeInto(page()->phrase(), "> hall");
        QVERIFY2(said_.contains("0 free network inputs"), qPrintable(said_));
        // And what the model can: the recorder hears four streams at most.
        for (const char* id : {"a", "b", "c"}) {
            state().run(project::offerStream(project(), "heddle", id, {"net 9"}));
            state().chooseRow(std::string("heddle/") + id);
            if (id[0] != 'c')
                state().send("shuttle-8-stage", id[0] == 'a' ? "net 3" : "net 8");
        }
        waitForFinding("5 streams it hears");
        pick("5 streams it hears"); // leads there
        QCOMPARE(w_->stage().id, QString("patch"));
        QCOMPARE(state().taker(), std::string("shuttle-8-stage"));
        state().chooseRow("heddle/b");
        pick("Withdraw the chosen stream");
        QTRY_VERIFY(std::none_of(w_->findChild<FindingsWatch*>()->found().begin(),
                                 w_->findChild<FindingsWatch*>()->found().end(),
                                 [](const auto& f) { return f.code == project::FindingCode::overLimit; }));
        // The same delay for all.
        state().chooseRow("heddle-8-rack-a/quad");
        press("patchAlign");
        const double delay = device("heddle").receivers.back().delayMs;
        QVERIFY(delay > 2 && device("treadle-4-hall").receivers.back().delayMs == delay);
        while (session().history().canUndo())
            session().undo();
        QVERIFY(project() == before);
    }
    void cutsAreTriedAndListed() {
        const auto before = project();
        press("patchWireButton");
        auto* listed = w_->findChild<QPlainTextEdit*>("patchDescription");
        click(wires()->viewport(), wires()->wireRect("w2")); // of the ring
        QTest::keyClick(wires(), Qt::Key_X);
        QVERIFY2(listed->toPlainText().contains("seminar-zones \u2192 Treadle 4 \u00b7 foyer: another way"),
                 qPrintable(listed->toPlainText()));
        click(wires()->viewport(), wires()->wireRect("w8")); // the amplifier's cable to the switch
        auto* over = w_->findChild<QListWidget*>("patchHears");
        QCOMPARE(over->count(), 1);
        QVERIFY(over->item(0)->text().contains("foyer-music"));
        QVERIFY(w_->findChild<QLabel*>("patchTakes")->text().contains("falls silent"));
        QTest::keyClick(wires(), Qt::Key_X); // both at once
        QVERIFY(listed->toPlainText().contains("foyer-music \u2192 Treadle 4 \u00b7 foyer: silent"));
        QCOMPARE(state().effects().size(), std::size_t(2));
        // Who hears whom shows it too: what is cut waits.
        press("patchHearButton");
        bool waits = false;
        for (const auto& t : state().board().threads)
            waits = waits || (t.receiver == "treadle-4-foyer/foyer-music" && !t.runs && !t.why.empty());
        QVERIFY(waits);
        press("patchWireButton");
        click(wires()->viewport(), wires()->deviceRect("sley-24-rack-a"));
        QTest::keyClick(wires(), Qt::Key_X);
        QVERIFY(state().effects().size() >= 9);
        pick("Mend all that is cut");
        QVERIFY(state().cut().none() && state().effects().empty());
        QVERIFY(project() == before); // a try is no change
    }
    void cablesAreDrawnMovedAndTaken() {
        press("patchWireButton");
        // Off, and drawn again from the list of what has none.
        click(wires()->viewport(), wires()->wireRect("w21"));
        QTest::keyClick(wires(), Qt::Key_Delete);
        QCOMPARE(project().wires.size(), std::size_t(21));
        const QRectF dial = wires()->deviceRect("foyer-dial");
        QVERIFY(!dial.isEmpty());
        dragOn(wires()->viewport(), dial.center(), wires()->deviceRect("sley-24-rack-a").center());
        QCOMPARE(project().wires.size(), std::size_t(22));
        QCOMPARE(project().wires[21].from, std::string("foyer-dial/lan 1"));
        // The ring in another order.
        dragOn(wires()->viewport(), wires()->deviceRect("treadle-4-hall").center(),
               wires()->deviceRect("heddle").center());
        const auto& ring = state().wired().rings[0];
        QVERIFY(ring.closed && project().devices[std::size_t(ring.devices[1])].id == "treadle-4-hall");
        // Fields of a cable.
        click(wires()->viewport(), wires()->wireRect("w12"));
        auto* form = view<PatchDeck>()->findChild<FieldForm*>("patchForm");
        auto* metres = form->findChild<QLineEdit*>("field.metres");
        QVERIFY(metres);
        typeInto(metres, "140");
        const auto laid = std::find_if(project().wires.begin(), project().wires.end(),
                                       [](const project::Wire& w) { return w.id == "w12"; });
        QCOMPARE(laid->metres, 140.0);
        waitForFinding("It is 140 m long");
        answer(QStringList{"Foyer dial", "Heddle 8 \u00b7 rack A", "Z-1", "3"});
        page()->lay();
        QVERIFY2(said_.contains("no free socket"), qPrintable(said_));
    }
    // A cable is relieved by leading its sound round the ring; the rest says why not.
    void aCableIsRelieved() {
        press("patchWireButton");
        const auto to = [&](const char* device) {
            for (const auto& w : project().wires)
                if (w.from.starts_with(std::string(device) + "/lan") || w.to.starts_with(std::string(device) + "/lan"))
                    return w.id;
            return std::string();
        };
        state().chooseWire(to("treadle-4-foyer"));
        answer(QStringList{"foyer-music to Treadle 4 \u00b7 foyer, round the ring: 1.8 to 0.0 Mbit/s"});
        pick("relieve the chosen cable");
        QVERIFY2(device("treadle-4-foyer").receivers[0].inputs[0].starts_with("ring "), qPrintable(said_));
        QVERIFY(std::any_of(device("heddle-8-rack-a").streams.begin(), device("heddle-8-rack-a").streams.end(),
                            [](const auto& s) { return s.name == "foyer-music on"; }));
        session().undo();
        QCOMPARE(device("treadle-4-foyer").receivers[0].inputs[0], std::string("net 1"));
        state().chooseWire(to("foyer-dial"));
        pick("relieve the chosen cable");
        QVERIFY2(said_.contains("No way over a ring"), qPrintable(said_));
    }
    void chosenAndTakenOff() {
        // A stream, then an input: where its sound comes from.
        click(hears()->viewport(), hears()->rowRect("heddle/hall-mix"));
        QCOMPARE(state().rows(), std::vector<std::string>{"heddle/hall-mix"});
        click(hears()->viewport(), hears()->slotRect("heddle-8-rack-a", "net 9"));
        QCOMPARE(state().thread(), std::string("heddle-8-rack-a/plover-lobes"));
        QCOMPARE(state().rows(), std::vector<std::string>{"plover-canopy/plover-lobes"});
        QTest::keyClick(hears(), Qt::Key_Delete);
        QVERIFY(!state().patched().hearing("heddle-8-rack-a/plover-lobes"));
        // Two at once, and a single channel.
        click(hears()->viewport(), hears()->rowRect("plover-canopy/plover-lobes"));
        drag(hears()->channelRect("plover-canopy/plover-lobes", 2), hears()->slotRect("heddle-8-rack-a", "net 30"));
        QCOMPARE(device("heddle-8-rack-a").receivers.back().inputs[2], std::string("net 30"));
        click(hears()->viewport(), hears()->rowRect("tern-canopy/tern-lobes"));
        click(hears()->viewport(), hears()->rowRect("plover-canopy/plover-lobes"), Qt::ControlModifier);
        QCOMPARE(state().rows().size(), std::size_t(2));
        drag(hears()->rowRect("tern-canopy/tern-lobes"), hears()->takerRect("heddle"));
        QCOMPARE(device("heddle").receivers.size(), std::size_t(4));
        // All of a device, listed first.
        click(hears()->viewport(), hears()->takerRect("heddle"));
        QCOMPARE(state().taker(), std::string("heddle"));
        QTimer::singleShot(50, this, [this] {
            auto* ask = asked();
            QVERIFY(ask);
            QString all;
            for (auto* l : ask->findChildren<QLabel*>())
                all += l->text();
            QVERIFY2(all.contains("tern-lobes") && all.contains("seminar-mix"), qPrintable(all));
            QTest::keyClick(ask, Qt::Key_Return);
        });
        page()->dropDevice();
        QVERIFY(device("heddle").receivers.empty());
        session().undo();
        QCOMPARE(device("heddle").receivers.size(), std::size_t(4));
        // A device onto a device: all that it offers.
        drag(hears()->offersRect("heddle-8-rack-a"), hears()->takerRect("treadle-4-hall"));
        QVERIFY(device("treadle-4-hall").receivers.size() == 3);
        // The whole stream.
        click(hears()->viewport(), hears()->rowRect("heddle/hall-mix"));
        QTest::keyClick(hears(), Qt::Key_Delete, Qt::ShiftModifier);
        QVERIFY(device("heddle").streams.empty() && state().rows().empty());
    }
    void keysAlone() {
        hears()->setFocus();
        QTest::keyClick(hears(), Qt::Key_Down);
        const auto first = state().rows();
        QCOMPARE(first.size(), std::size_t(1));
        QTest::keyClick(hears(), Qt::Key_Down);
        QVERIFY(state().rows() != first);
        QTest::keyClick(hears(), Qt::Key_Up);
        QCOMPARE(state().rows(), first);
        QTest::keyClick(hears(), Qt::Key_Right);
        QVERIFY(!state().thread().empty());
        const auto thread = state().thread();
        QTest::keyClick(hears(), Qt::Key_Down);
        QVERIFY(state().thread() != thread);
        QTest::keyClick(hears(), Qt::Key_Left);
        QVERIFY(state().thread().empty() && !state().rows().empty());
        QTest::keyClick(hears(), Qt::Key_Escape);
        QVERIFY(state().rows().empty());
        press("patchWireButton");
        QTest::keyClick(wires(), Qt::Key_Down);
        QVERIFY(!state().wire().empty());
    }
    void transportsAndRooms() {
        const auto rows = [&] {
            std::size_t all = 0;
            for (const auto& d : state().board().offers)
                all += d.rows.size();
            return all;
        };
        QCOMPARE(rows(), std::size_t(6));
        state().showTransport(project::Transport::ring, "Ring A");
        QCOMPARE(rows(), std::size_t(1));
        QVERIFY(std::any_of(state().board().takers.begin(), state().board().takers.end(),
                            [](const auto& d) { return !d.why.empty(); })); // faint, with a reason
        state().showTransport(project::Transport::cable);
        QVERIFY(rows() > 20);
        state().chooseRow("heddle/out 12");
        QVERIFY(state().send("treadle-2a-cellar") == false); // both its inputs are taken
        QVERIFY(said_.contains("no free input"));
        QVERIFY(state().send("heddle-8-rack-a"));
        QCOMPARE(device("heddle-8-rack-a").feeds.at("in 3"), std::string("heddle/out 12"));
        state().showTransport({});
        state().showRoom("plover");
        QVERIFY(rows() == 2 && state().board().takers.empty()); // its array, and its handheld's lead
        state().showRoom("");
        pick("Packet network alone");
        QCOMPARE(rows(), std::size_t(6));
    }
    // The rooms of the top bar filter while Patch is in view; from other stages they lead to the plan and filter
    // nothing.
    void roomsOfTheTopBar() {
        w_->goTo({.room = "plover"});
        QVERIFY(w_->stage().id == "patch" && w_->stage().room() == "plover");
        QVERIFY(state().board().offers.size() == 1);
        press("patchAllRooms");
        QVERIFY(state().filter().rooms.empty() && state().board().offers.size() > 3);
        w_->goTo({.room = "plover"});
        w_->goTo({.room = "plover"}); // again: all of them
        QVERIFY(state().filter().rooms.empty());
        w_->showStage("weave");
        w_->goTo({.room = "tern"});
        QVERIFY(w_->stage().id == "survey" && state().filter().rooms.empty());
    }
    void switchingAReceiver() {
        state().run(project::addChoice(project(), "spindle-cellar/hall-mix", "heddle-8-rack-a/seminar-mix"));
        for (const auto& t : state().board().threads)
            if (t.receiver == "spindle-cellar/hall-mix")
                state().chooseThread(t);
        auto* form = view<PatchDeck>()->findChild<FieldForm*>("patchForm");
        auto* which = form->findChild<QComboBox*>("field.chosen");
        QVERIFY(which && which->count() == 2);
        which->setCurrentIndex(1);
        emit which->activated(1);
        QCOMPARE(device("spindle-cellar").receivers[0].chosen, 1);
        QCOMPARE(state().patched().hearing("spindle-cellar/hall-mix")->stream,
                 std::string("heddle-8-rack-a/seminar-mix"));
    }
    void descriptionSaved() {
        click(hears()->viewport(), hears()->rowRect("heddle/hall-mix"));
        const QString file = folder_.filePath("mix.sdp");
        answerFile(file);
        press("patchSave");
        QFile written(file);
        QVERIFY(written.open(QIODevice::ReadOnly));
        const auto read = stream::readSdp(written.readAll().toStdString());
        QVERIFY(read && read->name == "hall-mix" && read->format.channels == 1);
    }
    void findOrDoReachesAll() {
        pick("hall-mix \u00b7 Level = -6");
        QCOMPARE(device("heddle").streams[0].levelDb, -6.0);
        pick("N-14");
        QVERIFY(page()->wiring() && state().wire() == "w18");
    }
    // Of an input: back over streams and programs to the microphone, each to be gone to.
    void whereItComesFrom() {
        const auto slot = [&] { return hears()->slotRect("treadle-4-foyer", "net 1"); };
        scrollTo(hears(), slot);
        click(hears()->viewport(), slot());
        auto* takes = w_->findChild<QLabel*>("patchTakes");
        QVERIFY2(takes->text().contains("at Treadle 4 \u00b7 foyer \u00b7 net 1"), qPrintable(takes->text()));
        QVERIFY(takes->text().contains("Heddle 8 \u00b7 rack A \u00b7 net 2") && takes->text().contains("one of 3"));
        emit takes->linkActivated("heddle-8-rack-a/net 2/out");
        QVERIFY(state().isChosen("heddle-8-rack-a/foyer-music") && state().thread().empty());
        emit takes->linkActivated("treadle-4-foyer/net 1/in");
        QCOMPARE(state().thread(), std::string("treadle-4-foyer/foyer-music"));
        QVERIFY(state().slot() == "net 1" && state().port() && state().port()->input);
        emit takes->linkActivated("heddle-8-rack-a/in 3/in");
        QVERIFY(said_.contains("Nothing of Patch"));
    }
    // Streams of others: pasted, dropped, and what is none.
    void streamsOfOthers() {
        const QString theirs = "v=0\no=- 9 1 IN IP4 10.7.0.9\ns=Stage left\nc=IN IP4 239.7.7.7/8\nt=0 0\n"
                               "m=audio 5006 RTP/AVP 96\na=rtpmap:96 L24/48000/2\na=ptime:1\n";
        QApplication::clipboard()->setText(theirs);
        hears()->setFocus();
        QTest::keyClick(hears(), Qt::Key_V, Qt::ControlModifier);
        QVERIFY2(state().isChosen("outside/stage-left"), qPrintable(said_));
        const auto row = [&] { return hears()->rowRect("outside/stage-left"); };
        QTest::keyClick(hears(), Qt::Key_Return);
        typeInto(page()->phrase(), "> stage");
        QVERIFY2(device("shuttle-8-stage").receivers.back().streams.size() == 1, qPrintable(said_));
        QCOMPARE(device("shuttle-8-stage").receivers.back().streams, std::vector<std::string>{"outside/stage-left"});
        scrollTo(hears(), row);
        QVERIFY(!row().isEmpty());
        const auto& board = state().board();
        QVERIFY(std::any_of(board.threads.begin(), board.threads.end(),
                            [](const auto& t) { return t.name == "Stage left" && t.runs; }));
        session().undo();
        session().undo();
        QVERIFY(!project().device("outside"));
        const QString file = folder_.filePath("theirs.sdp");
        QFile out(file);
        QVERIFY(out.open(QIODevice::WriteOnly));
        out.write(theirs.toUtf8());
        out.close();
        dropFile(hears()->viewport(), file);
        QVERIFY(project().device("outside"));
        QApplication::clipboard()->setText("no description");
        pick("Take a stream of others by its");
        QVERIFY2(said_.contains("v=0"), qPrintable(said_));
        pick("Take a stream that others announce"); // nobody looked for any yet
        QVERIFY2(said_.contains("Listening") || said_.contains("Nobody announces"), qPrintable(said_));
    }
    // On the bench the ports of its processor have levels, and one is brought here and given back.
    void portsOnTheBench() {
        const std::string working = session().device()->id;
        QCOMPARE(working, std::string("heddle"));
        page()->ear().bring({"treadle-4-foyer", "net 1", true});
        QVERIFY(said_.contains("is not there") && !page()->ear().brought());
        QVERIFY(!page()->ear().level({"heddle", "net 1", false}));
        pick("run or stop the bench");
        QTRY_VERIFY_WITH_TIMEOUT(session().bench().running(), 20000);
        w_->showStage("patch");
        click(hears()->viewport(), hears()->rowRect("heddle/hall-mix"));
        QTRY_VERIFY_WITH_TIMEOUT(page()->ear().level({"heddle", "net 1", false}).value_or(-200) > -80, 15000);
        QTest::keyClick(hears(), Qt::Key_L);
        QVERIFY(page()->ear().brought() && page()->ear().words() == "Heddle 16 \u00b7 rack A \u00b7 net 1");
        auto* back = w_->findChild<QPushButton*>("patchGiveBack");
        QTRY_VERIFY(back->isVisible() && back->text().contains("dBFS"));
        // What is pointed at has its spectrum.
        QTest::mouseMove(hears()->viewport(), hears()->rowRect("heddle/hall-mix").center().toPoint());
        QTRY_VERIFY_WITH_TIMEOUT(page()->ear().spectrum().size() == 30, 10000);
        QTest::mouseMove(hears()->viewport(), QPoint(2, 2));
        hears()->setFocus();
        QTest::keyClick(hears(), Qt::Key_G);
        QVERIFY(!page()->ear().brought() && !back->isVisible());
        // Another port by its name, to an output by a tool; the same key gives it back.
        answer(QStringList{"in 2, what comes in", "out 3"});
        page()->bringPort();
        QTRY_COMPARE(session().tools().size(), std::size_t(1));
        QVERIFY(session().tools()[0].kind == project::Tool::Kind::bridge && back->isVisible());
        press("patchGiveBack");
        QVERIFY(session().tools().empty() && !back->isVisible());
        answer(QStringList{"usb 9", ""});
        page()->bringPort();
        QVERIFY2(said_.contains("no port \"usb 9\""), qPrintable(said_));
        session().bench().stop();
    }
    void largeTextAndNight() {
        Theme::get().setPercent(200);
        Theme::get().setNight(true);
        QVERIFY(!hears()->grab().isNull());
        press("patchWireButton");
        QVERIFY(!wires()->grab().isNull() && !wires()->paintedParts().empty());
        wires()->choosePart(0);
        QVERIFY(!state().wire().empty());
        press("patchHearButton");
        hears()->choosePart(1);
        QCOMPARE(state().rows().size(), std::size_t(1));
        Theme::get().setNight(false);
    }
    void nothingThereYet() {
        session().startEmpty();
        w_->showStage("patch");
        QVERIFY(hears()->paintedParts().empty());
        page()->offer();
        QVERIFY(said_.contains("Put one on the plan first"));
        page()->lay();
        QVERIFY(said_.contains("no two devices"));
    }
};

LOOM_TEST(tst_patch_page, TestPatchPage)
#include "tst_patch_page.moc"
