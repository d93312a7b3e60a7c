// Talk, as the window knows it: conversations.
#include "app/shell/finder.h"
#include "app/shell/main_window.h"
#include "app/talk/first_pass_deck.h"
#include "app/talk/mix_view.h"
#include "app/talk/mute_view.h"
#include "app/talk/talk_page.h"
#include "app/talk/talk_view.h"
#include "app/talk/whose_view.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include <QPainter>
#include <QPainterPath>

namespace loom::app {

Stage talk_stage(MainWindow& window) {
    auto& session = window.session();
    auto* page = new TalkPage(session, window.commands());
    auto* deck = new FirstPassDeck(page->state());
    auto& state = page->state();

    Stage stage;
    stage.id = "talk";
    stage.name = "Talk";
    stage.order = 4;
    stage.icon = [](QPainter& p, QPointF m) { // what somebody says
        QPainterPath bubble;
        bubble.addRoundedRect(QRectF(m + QPointF(px(-10), px(-9)), QSizeF(px(20), px(14))), px(3), px(3));
        p.drawPath(bubble);
        p.drawLine(m + QPointF(px(-4), px(5)), m + QPointF(px(-4), px(10)));
        p.drawLine(m + QPointF(px(-4), px(10)), m + QPointF(px(2), px(5)));
    };
    stage.page = page;
    stage.deck = deck;
    stage.focus = [page] { page->focusView(); };
    stage.beat = [page] { page->beat(); };
    const auto nobody = [&state] {
        return state.space().key.empty()
                   ? QString("Nobody talks yet: lead microphones of a room to a processor, in Survey or Patch.")
                   : QString();
    };
    const auto nothingTicked = [&state] {
        return state.passes()             ? QString()
               : !state.pass()            ? QString("Press First pass first.")
               : state.tickedCount() == 0 ? QString("Nothing is ticked.")
                                          : QString();
    };
    const auto noCrossing = [page] {
        return page->mixes()->any() ? QString() : QString("Nobody hears anybody here yet: First pass makes the mixes.");
    };
    const auto noLine = [&state] {
        const auto* line = state.line();
        return !line                         ? QString("This room has no telephone line.")
               : !state.onSite(line->device) ? QString("The line's device is not reached: look for it at Site first.")
                                             : QString();
    };
    stage.commands = {
        Command("talk.firstPass", "First pass: what this room needs for a call", [&state] { state.plan(); })
            .on("F", {page->view()})
            .unless(nobody)
            .inMenus("First pass\u2026")
            .byMouse("First pass"),
        Command("talk.allRooms", "First pass of all rooms, one after another", [&state] { state.planAll(); })
            .unless(nobody)
            .inMenus("First pass of all rooms"),
        Command("talk.take", "Do what is ticked of the first pass", [&state] { state.take(); })
            .on("D", {page->view()})
            .unless(nothingTicked)
            .byMouse("Do the ticked"),
        Command("talk.drop", "Put the first pass away", [&state] { state.dropPlan(); }).byMouse("Not now"),
        Command("talk.prove", "Show what the far end gets", [&state] { state.prove(); })
            .on("P", {page->view()})
            .unless(nobody)
            .inMenus("What the far end gets")
            .byMouse("What the far end gets"),
        Command("talk.stop", "Stop showing what the far end gets", [&state] { state.stopProving(); })
            .unless([&state] { return state.proving() ? QString() : QString("Nothing is run."); })
            .byMouse("Cancel"),
        Command("talk.conversation", "Conversation: who is open when, and what the far end gets",
                [page] { page->show(TalkPage::View::conversation); })
            .byMouse("Conversation"),
        Command("talk.mixes", "Mixes: who hears whom, and how loud", [page] { page->show(TalkPage::View::mixes); })
            .byMouse("Mixes"),
        Command("talk.mutes", "Mute: who sets it, who shows it, where sound is cut",
                [page] { page->show(TalkPage::View::mute); })
            .byMouse("Mute"),
        Command("talk.whose", "Whose is what: ports, lines, arrays and contacts by room",
                [page] { page->show(TalkPage::View::whose); })
            .byMouse("Whose is what"),
        Command("talk.group", "Group the chosen microphones", [&state] { state.group(); })
            .on("G", {page->view()})
            .unless([&state] {
                return state.microphones().size() < 2
                           ? QString("Choose two microphones or more: Ctrl+click, or Shift with the arrows.")
                           : QString();
            })
            .inMenus("Group them"),
        Command("talk.cross", "Open or close the chosen crossing of the mixes", [page] { page->mixes()->turn(); })
            .on("Space", {page->mixes()})
            .unless(noCrossing)
            .inMenus("Open or close")
            .byMouse("a click"),
        Command("talk.level", "Set the level of the chosen crossing\u2026", [page] { page->askLevel(); })
            .on("L", {page->mixes()})
            .unless(noCrossing)
            .inMenus("Level\u2026"),
        Command("talk.louder", "One dB more at the chosen crossing", [page] { page->mixes()->step(1); })
            .on("+", {page->mixes()})
            .unless(noCrossing)
            .inMenus("One dB more"),
        Command("talk.quieter", "One dB less at the chosen crossing", [page] { page->mixes()->step(-1); })
            .on("-", {page->mixes()})
            .unless(noCrossing)
            .inMenus("One dB less"),
        Command("talk.mute", "Mute this space now, or let it be heard again",
                [&state] { state.mute(!state.mutedNow().value_or(false)); })
            .on("M", {page->mutes(), page->view()})
            .unless(nobody)
            .inMenus("Mute, or live again")
            .byMouse("Mute now"),
        Command("talk.cut", "Put a mute on the way to each far end that has none", [page] { page->mutes()->cut(); })
            .unless(
                [page] { return page->mutes()->nothingCuts() ? QString() : QString("Every far end is cut already."); })
            .inMenus("Put a mute on the way")
            .byMouse("Put a mute on the way"),
        Command("talk.give", "Give the chosen ports to a room\u2026", [page] { page->askOwner(); })
            .on("G", {page->whose()})
            .unless([page] {
                return page->whose()->chosen().empty() ? QString("Choose a port first, in Whose is what.") : QString();
            })
            .inMenus("Give to\u2026")
            .byMouse("drag it to another room"),
        Command("talk.latch", "Say which wall's latch hangs on the chosen contact\u2026", [page] { page->askLatch(); })
            .on("W", {page->whose()})
            .unless([page] {
                return page->whose()->contact() ? QString() : QString("Choose a contact first, in Whose is what.");
            })
            .inMenus("A wall's latch\u2026"),
        Command("talk.hear", "Hear it as the far end, or stop", [page] { page->hear(); })
            .on("H", {page->view()})
            .unless(
                [page] { return page->player().playing() || page->view()->live() ? QString() : page->nothingShown(); })
            .inMenus("Hear it as the far end")
            .byMouse("Hear it as the far end"),
        Command("talk.compare", "Run the room as it is and with what is ticked", [&state] { state.compare(); })
            .unless(nothingTicked)
            .byMouse("Compare before and after"),
        Command("talk.before", "Hear the far end before the first pass, or stop", [page] { page->hearBefore(true); })
            .unless([&state] { return state.before() ? QString() : QString("Compare before and after first."); })
            .byMouse("Hear before"),
        Command("talk.after", "Hear the far end after the first pass, or stop", [page] { page->hearBefore(false); })
            .unless([&state] { return state.after() ? QString() : QString("Compare before and after first."); })
            .byMouse("Hear after"),
        Command("talk.telephone", "The telephone line of this room\u2026", [page] { page->telephone(); })
            .unless(noLine)
            .inMenus("Telephone\u2026"),
        Command("talk.dial", "Dial a number\u2026", [page] { page->askNumber(false); })
            .unless(noLine)
            .inMenus("Dial\u2026"),
        Command("talk.answer", "Answer the call", [&state] { state.call("answer"); }).unless(noLine).inMenus("Answer"),
        Command("talk.hold", "Hold the call", [&state] { state.call("hold"); }).unless(noLine).inMenus("Hold"),
        Command("talk.resume", "Go on with the call that is held", [&state] { state.call("resume"); })
            .unless(noLine)
            .inMenus("Go on"),
        Command("talk.keys", "Send keypad tones\u2026", [page] { page->askNumber(true); })
            .unless(noLine)
            .inMenus("Keys\u2026"),
        Command("talk.hangUp", "Hang up", [&state] { state.call("hang-up"); }).unless(noLine).inMenus("Hang up"),
        Command("talk.secret", "Give the line's device the secret of its account\u2026", [page] { page->askSecret(); })
            .unless(noLine)
            .inMenus("Secret of the account\u2026"),
        Command("talk.save", "Save what the far end was sent, as a WAV file", [page] { page->saveFarEnd(); })
            .unless([page] { return page->nothingShown(); })
            .inMenus("Save what the far end was sent\u2026"),
    };
    QObject::connect(deck, &FirstPassDeck::wants, page, [&window](const QString& id) { window.commands().run(id); });
    QObject::connect(&page->player(), &FarPlayer::changed, deck,
                     [page, deck] { deck->sayPlaying(page->player().what()); });
    stage.show = [page](const Target& place) {
        auto& s = page->state();
        if (!place.room.empty())
            return page->isVisible() && s.chooseRoom(place.room);
        if (place.stage != "Talk")
            return false;
        for (const auto& one : s.choices()) {
            const auto of = project::spaceSaid(s.project(), one.key, one.state);
            if (!of)
                continue;
            const auto talk = project::conversationOf(s.project(), *of);
            for (std::size_t m = 0; m < talk.microphones.size(); ++m)
                if (talk.microphones[m].device == place.device) {
                    s.choose(one.key, one.state);
                    s.chooseMicrophone(static_cast<int>(m));
                    return true;
                }
        }
        return true;
    };
    stage.room = [page]() -> std::string {
        const auto& key = page->state().space().key;
        return key.find('+') == std::string::npos ? key : std::string();
    };
    QObject::connect(&state, &TalkState::changed, &window, &MainWindow::refreshRooms);
    stage.find = [&window, page](std::vector<Findable>& all) {
        for (const auto& one : page->state().choices())
            all.push_back({"conversation", q(one.name), "", [&window, page, one] {
                               window.showStage("talk");
                               page->state().choose(one.key, one.state);
                           }});
    };
    stage.empty = [page]() -> QString {
        return page->state().choices().empty()
                   ? "Here conferences are made right before the first call: who is heard by whom, without echo and "
                     "noise. There is no room with a microphone that is led to a processor yet."
                   : "";
    };
    stage.firstSteps = {"go.survey", "go.patch", "demo"};
    return stage;
}

} // namespace loom::app
