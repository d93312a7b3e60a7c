// Survey, as the window knows it: rooms and equipment on a plan.
#include "app/shell/finder.h"
#include "app/shell/findings_watch.h"
#include "app/shell/main_window.h"
#include "app/survey/device_table.h"
#include "app/survey/plan_view.h"
#include "app/survey/shelf.h"
#include "app/survey/side_view.h"
#include "app/survey/survey_deck.h"
#include "app/survey/survey_page.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "catalogue/catalogue.h"
#include <QPainter>

namespace loom::app {
namespace {

std::vector<Command> commandsOf(Session& session, SurveyPage* page, SurveyDeck* deck) {
    auto* plan = page->plan();
    auto& state = page->state();
    const std::vector<QWidget*> here{plan};
    const auto chosen = [&state] {
        return state.chosen().empty() ? QString("Choose something on the plan first.") : QString();
    };
    const auto room = [&session, &state] {
        return session.project().room(state.room()) ? QString() : "Draw or choose a room first.";
    };
    const auto tool = [plan](PlanView::Tool t) { return [plan, t] { plan->setTool(t); }; };
    const auto piece = [plan](project::Piece::Kind kind) {
        return [plan, kind] { plan->setTool(PlanView::Tool::piece, kind); };
    };
    using Tool = PlanView::Tool;
    using Kind = project::Piece::Kind;
    std::vector<Command> all{
        {"survey.room", "Draw a room", tool(Tool::room), "R", here, {}, {}, "Draw a room"},
        {"survey.roomBySize",
         "A room by its size",
         [plan] { plan->askSize(); },
         "Shift+R",
         here,
         {},
         "A room by its size\u2026",
         "right click"},
        {"survey.seats", "Put seats", tool(Tool::seats), "S", here, {}, "Seats", "Seats"},
        {"survey.talker", "Put a talker", tool(Tool::talker), "T", here, {}, "Talker", "Talker"},
        {"survey.wall", "Draw a movable wall", tool(Tool::wall), "W", here, {}, "Movable wall", "Movable wall"},
        {"survey.table", "Put a table", piece(Kind::table), {}, {}, {}, "Table", "Furniture"},
        {"survey.lectern", "Put a lectern", piece(Kind::lectern), {}, {}, {}, "Lectern", "Furniture"},
        {"survey.screen", "Put a screen", piece(Kind::screen), {}, {}, {}, "Screen", "Furniture"},
        {"survey.door", "Put a door", piece(Kind::door), {}, {}, {}, "Door", "Furniture"},
        {"survey.stage", "Put a stage or slope", piece(Kind::stage), {}, {}, {}, "Stage or slope", "Furniture"},
        {"survey.rack", "Put a rack", tool(Tool::rack), {}, {}, {}, "Rack", "Furniture"},
        {"survey.grid",
         "Ceiling grid",
         [page] { page->ceilingGrid(); },
         {},
         {},
         room,
         "Ceiling grid\u2026",
         "Ceiling grid"},
        {"survey.side",
         "From the side, or from above",
         [page] { page->showSide(page->plan()->isVisible()); },
         "E",
         {plan, page->side()},
         {},
         {},
         "Side"},
        {"survey.backdrop",
         "Open a backdrop",
         [page] { page->openBackdrop(); },
         {},
         {},
         {},
         "Open a drawing (DXF, SVG, PNG, JPEG)\u2026",
         "Backdrop"},
        {"survey.scale",
         "Scale the backdrop",
         tool(Tool::scale),
         {},
         {},
         {},
         "Scale it: drag along a known length",
         "Backdrop"},
        {"survey.noBackdrop",
         "Take the backdrop away",
         [page] { page->removeBackdrop(); },
         {},
         {},
         {},
         "Take it away",
         "Backdrop"},
        {"survey.search",
         "Search the shelf",
         [page] { page->shelf()->takeFocus(); },
         {},
         {},
         {},
         {},
         "the field above the shelf"},
        {"survey.model", "Make a model for the shelf", [page] { page->makeModel(); }, {}, {}, {}, {}, "Make a model"},
        {"survey.modelFile",
         "Add a model file to the shelf",
         [page] { page->addModelFile(); },
         {},
         {},
         {},
         {},
         "Add a model file"},
        {"survey.copy", "Copy what is chosen on the plan", [plan] { plan->copyChosen(); }, "Ctrl+C", here, chosen,
         "Copy", "right click"},
        {"survey.paste", "Paste on the plan", [plan] { plan->paste(); }, "Ctrl+V", here, {}, "Paste", "right click"},
        {"survey.duplicate", "Copy what is chosen beside it", [plan] { plan->duplicateChosen(); }, "D", here, chosen,
         "Copy beside it", "right click"},
        {"survey.mirror", "Mirror what is chosen on the plan", [plan] { plan->mirrorChosen(); }, "M", here, chosen,
         "Mirror", "right click"},
        {"survey.remove", "Remove what is chosen on the plan", [plan] { plan->removeChosen(); }, "Del Backspace", here,
         chosen, "Remove", "right click"},
        {"survey.all",
         "Choose all devices of the room",
         [plan] { plan->chooseDevices(); },
         "Ctrl+A",
         here,
         room,
         {},
         "Shift and drag"},
        {"survey.rename", "Rename all devices", [deck] { deck->renameAll(); }, {}, {}, {}, {}, "Rename all"},
        {"survey.address", "Address all devices", [deck] { deck->addressAll(); }, {}, {}, {}, {}, "Address all"},
        {"survey.copyRoom", "Copy the room", [deck] { deck->copyRoom(); }, {}, {}, room, {}, "Copy room"},
        {"survey.copySettings", "Copy the settings of the chosen device", [deck] { deck->copySettings(); }},
        {"survey.pasteSettings", "Paste settings on the chosen devices", [deck] { deck->pasteSettings(); }},
        {"survey.whole", "Whole building", [plan] { plan->fit(); }, "0", here, {}, {}, "right click"},
        {"survey.fitRoom",
         "The room fills the plan",
         [plan] { plan->fitRoom(); },
         "1",
         here,
         {},
         "This room",
         "right click"},
        {"survey.nearer", "Plan larger", [plan] { plan->zoomBy(1.25); }, "+ =", here, {}, {}, "the wheel"},
        {"survey.farther", "Plan smaller", [plan] { plan->zoomBy(0.8); }, "-", here, {}, {}, "the wheel"}};
    const auto map = [&](const char* id, const char* text, MapKind kind) {
        all.push_back({QString("survey.map.") + id,
                       text,
                       [&state, kind] { state.setMap(kind, state.mapBand()); },
                       {},
                       {},
                       {},
                       {},
                       "the buttons below the plan"});
    };
    for (const auto& m : project::mapSpecs())
        map(m.id, m.what, m.kind);
    map("none", "No map", MapKind::none);
    return all;
}

// A room, or a device in the room it stands in.
void show(SurveyPage* page, Session& session, const std::string& id) {
    auto& state = page->state();
    if (session.project().room(id)) {
        state.setRoom(id);
        state.choose({"room:" + id});
        page->plan()->fitRoom();
    } else if (const auto* d = session.project().device(id)) {
        if (!d->room.empty())
            state.setRoom(d->room);
        state.choose({"device:" + id});
    }
}

void findIn(MainWindow& window, SurveyPage* page, std::vector<Findable>& all) {
    auto& session = window.session();
    auto& state = page->state();
    const auto& p = session.project();
    const auto go = [&window, &session, page](const std::string& id) {
        return [&window, &session, page, id] {
            window.showStage("survey");
            show(page, session, id);
        };
    };
    for (const auto& d : p.devices)
        all.push_back({"device", q(d.name + (d.address.empty() ? "" : " \u00b7 " + d.address)), "", go(d.id)});
    for (const auto& b : p.buildings) {
        for (const auto& r : b.rooms) {
            all.push_back({"room", q(r.name), "", go(r.id)});
            for (const auto& f : project::fieldsOf(p, "room:" + r.id))
                all.push_back({"value", q(r.name + " \u00b7 " + f.label), "", go(r.id),
                               [&session, &state, id = r.id, field = f.id](const QString& text) {
                                   auto edit =
                                       project::setField(session.project(), {"room:" + id}, field, text.toStdString());
                                   edit ? void(state.run(std::move(*edit))) : session.report(edit.trouble());
                               }});
        }
        for (const auto& s : b.states)
            all.push_back({"wall state", q(s.name), "", [&window, &state, id = s.id] {
                               window.showStage("survey");
                               state.setWallState(id);
                           }});
    }
    for (const auto& m : project::catalogue())
        all.push_back({"put on the plan", q(m.name), "", [&window, page, id = m.id] {
                           window.showStage("survey");
                           page->plan()->setModel(id);
                       }});
    const auto& suggestions = state.result().suggestions;
    for (std::size_t i = 0; i < suggestions.size(); ++i)
        all.push_back({"suggestion", q(suggestions[i].text), "", [&state, i] { state.applySuggestion(i); }});
}

} // namespace

Stage survey_stage(MainWindow& window) {
    auto& session = window.session();
    auto* page = new SurveyPage(session, window.commands());
    auto* deck = new SurveyDeck(page->state());
    QObject::connect(&page->state(), &SurveyState::changed, &window, &MainWindow::refresh);
    QObject::connect(page->plan(), &PlanView::wantsDeck, deck, &SurveyDeck::takeFocus);
    QObject::connect(deck, &SurveyDeck::wantsBack, page, &SurveyPage::takeFocus);
    QObject::connect(&window.watch(), &FindingsWatch::changed, deck,
                     [&window, deck] { deck->table()->rows().setFindings(window.watch().found()); });

    Stage stage;
    stage.id = "survey", stage.name = "Survey", stage.order = 1;
    stage.icon = [](QPainter& p, QPointF m) { // rooms from above
        p.drawPolyline(QPolygonF{m + QPointF(px(-11), px(8)), m + QPointF(px(-11), px(-8)), m + QPointF(px(11), px(-8)),
                                 m + QPointF(px(11), px(3)), m + QPointF(px(1), px(3)), m + QPointF(px(1), px(8)),
                                 m + QPointF(px(-11), px(8))});
    };
    stage.page = page, stage.deck = deck;
    stage.focus = [page] { page->takeFocus(); };
    stage.room = [page] { return page->state().room(); };
    stage.show = [page, &session](const Place& place) {
        const auto& id = place.device.empty() ? place.room : place.device;
        show(page, session, id);
        return true; // whatever it is, it stands on the plan
    };
    stage.find = [&window, page](std::vector<Findable>& all) { findIn(window, page, all); };
    stage.begin = [&window, &session](std::vector<Findable>& all) {
        all.push_back({"new project with", "rooms first \u00b7 draw them, then choose processors from the shelf", "",
                       [&window, &session] {
                           session.startEmpty();
                           window.showStage("survey");
                       }});
    };
    stage.commands = commandsOf(session, page, deck);
    return stage;
}

} // namespace loom::app
