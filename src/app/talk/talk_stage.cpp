// Talk, as the window knows it: conversations.
#include "app/shell/finder.h"
#include "app/shell/main_window.h"
#include "app/talk/first_pass_deck.h"
#include "app/talk/talk_page.h"
#include "app/talk/talk_view.h"
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
    stage.focus = [page] { page->view()->setFocus(); };
    stage.beat = [page] { page->beat(); };
    const auto nobody = [&state] {
        return state.space().key.empty()
                   ? QString("Nobody talks yet: lead microphones of a room to a processor, in Survey or Patch.")
                   : QString();
    };
    const auto nothingTicked = [&state] {
        return !state.pass()              ? QString("Press First pass first.")
               : state.tickedCount() == 0 ? QString("Nothing is ticked.")
                                          : QString();
    };
    stage.commands = {
        Command("talk.firstPass", "First pass: what this room needs for a call", [&state] { state.plan(); })
            .on("F", {page->view()})
            .unless(nobody)
            .inMenus("First pass\u2026")
            .byMouse("First pass"),
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
        Command("talk.save", "Save what the far end was sent, as a WAV file", [page] { page->saveFarEnd(); })
            .unless([page] { return page->nothingShown(); })
            .inMenus("Save what the far end was sent\u2026"),
    };
    QObject::connect(deck, &FirstPassDeck::wantsTake, page, [&window] { window.commands().run("talk.take"); });
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
