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
#include <QClipboard>
#include <QGuiApplication>
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
        const auto* r = session.project().room(state.room());
        return r && r->outline.size() >= 3 ? QString() : "Draw or choose a room first.";
    };
    const auto tool = [plan](PlanView::Tool t) { return [plan, t] { plan->setTool(t); }; };
    const auto furniture = [plan](project::Furniture::Kind kind) {
        return [plan, kind] { plan->setTool(PlanView::Tool::furniture, kind); };
    };
    using Tool = PlanView::Tool;
    using Kind = project::Furniture::Kind;
    std::vector<Command> all{
        Command("survey.room", "Draw a room", tool(Tool::room)).on("R", here).byMouse("Draw a room"),
        Command("survey.roomBySize", "A room by its size", [plan] { plan->askSize(); })
            .on("Shift+R", here)
            .inMenus("A room by its size\u2026")
            .byMouse("right click"),
        Command("survey.seats", "Put seats", tool(Tool::seats)).on("S", here).inMenus("Seats").byMouse("Seats"),
        Command("survey.talker", "Put a talker", tool(Tool::talker)).on("T", here).inMenus("Talker").byMouse("Talker"),
        Command("survey.wall", "Draw a movable wall", tool(Tool::wall))
            .on("W", here)
            .inMenus("Movable wall")
            .byMouse("Movable wall"),
        Command("survey.table", "Put a table", furniture(Kind::table)).inMenus("Table").byMouse("Furniture"),
        Command("survey.lectern", "Put a lectern", furniture(Kind::lectern)).inMenus("Lectern").byMouse("Furniture"),
        Command("survey.screen", "Put a screen", furniture(Kind::screen)).inMenus("Screen").byMouse("Furniture"),
        Command("survey.door", "Put a door", furniture(Kind::door)).inMenus("Door").byMouse("Furniture"),
        Command("survey.stage", "Put a stage or slope", furniture(Kind::stage))
            .inMenus("Stage or slope")
            .byMouse("Furniture"),
        Command("survey.rack", "Put a rack", tool(Tool::rack)).inMenus("Rack").byMouse("Furniture"),
        Command("survey.grid", "Ceiling grid", [page] { page->ceilingGrid(); })
            .unless(room)
            .inMenus("Ceiling grid\u2026")
            .byMouse("Ceiling grid"),
        Command("survey.side", "From the side, or from above", [page] { page->showSide(page->plan()->isVisible()); })
            .on("E", {plan, page->side()})
            .byMouse("Side"),
        Command("survey.backdrop", "Open a backdrop", [page] { page->openBackdrop(); })
            .inMenus("Open a drawing (DXF, SVG, PNG, JPEG)\u2026")
            .byMouse("Backdrop"),
        Command("survey.drawing", "Layers, unit and rooms of the drawing", [page] { page->showDrawing(); })
            .unless([plan]() -> QString {
                if (plan->backdrop().plan())
                    return {};
                return plan->backdrop().isRead() ? "Open a DXF drawing first." : "The drawing is still being read.";
            })
            .inMenus("Its layers, unit and rooms")
            .byMouse("Backdrop"),
        Command("survey.scale", "Scale the backdrop", tool(Tool::scale))
            .inMenus("Scale it: drag along a known length")
            .byMouse("Backdrop"),
        Command("survey.noBackdrop", "Take the backdrop away", [page] { page->removeBackdrop(); })
            .inMenus("Take it away")
            .byMouse("Backdrop"),
        Command("survey.search", "Search the shelf", [page] { page->shelf()->takeFocus(); })
            .byMouse("the field above the shelf"),
        Command("survey.model", "Make a model for the shelf", [page] { page->makeModel(); }).byMouse("Make a model"),
        Command("survey.modelFile", "Add a model file to the shelf", [page] { page->addModelFile(); })
            .byMouse("Add a model file"),
        Command("survey.copy", "Copy what is chosen on the plan", [plan] { plan->copyChosen(); })
            .on("Ctrl+C", here)
            .unless(chosen)
            .inMenus("Copy")
            .byMouse("right click"),
        Command("survey.paste", "Paste on the plan", [plan] { plan->paste(); })
            .on("Ctrl+V", here)
            .inMenus("Paste")
            .byMouse("right click"),
        Command("survey.duplicate", "Copy what is chosen beside it", [plan] { plan->duplicateChosen(); })
            .on("D", here)
            .unless(chosen)
            .inMenus("Copy beside it")
            .byMouse("right click"),
        Command("survey.mirror", "Mirror what is chosen on the plan", [plan] { plan->mirrorChosen(); })
            .on("M", here)
            .unless(chosen)
            .inMenus("Mirror")
            .byMouse("right click"),
        Command("survey.remove", "Remove what is chosen on the plan", [plan] { plan->removeChosen(); })
            .on("Del Backspace", here)
            .unless(chosen)
            .inMenus("Remove")
            .byMouse("right click"),
        Command("survey.all", "Choose all devices of the room", [plan] { plan->chooseDevices(); })
            .on("Ctrl+A", here)
            .unless(room)
            .byMouse("Shift and drag"),
        Command("survey.rename", "Rename all devices", [deck] { deck->renameAll(); }).byMouse("Rename all"),
        Command("survey.address", "Address all devices", [deck] { deck->addressAll(); }).byMouse("Address all"),
        Command("survey.copyRoom", "Copy the room", [deck] { deck->copyRoom(); }).unless(room).byMouse("Copy room"),
        Command("survey.deviceTable", "Devices of a copied table",
                [deck] { deck->takeTable(QGuiApplication::clipboard()->text()); })
            .unless([] {
                return QGuiApplication::clipboard()->text().contains('\n')
                           ? QString()
                           : QString("Copy rows of a spreadsheet first, with the one that names the columns.");
            })
            .byMouse("right click"),
        Command("survey.deviceTableFile", "Devices of a table file", [deck] { deck->openTable(); })
            .inMenus("Devices of a table file\u2026")
            .byMouse("right click"),
        Command("survey.copySettings", "Copy the settings of the chosen device", [deck] { deck->copySettings(); }),
        Command("survey.pasteSettings", "Paste settings on the chosen devices", [deck] { deck->pasteSettings(); }),
        Command("survey.whole", "Whole building", [plan] { plan->fit(); }).on("0", here).byMouse("right click"),
        Command("survey.fitRoom", "The room fills the plan", [plan] { plan->fitRoom(); })
            .on("1", here)
            .inMenus("This room")
            .byMouse("right click"),
        Command("survey.nearer", "Plan larger", [plan] { plan->zoomBy(1.25); }).on("+ =", here).byMouse("the wheel"),
        Command("survey.farther", "Plan smaller", [plan] { plan->zoomBy(0.8); }).on("-", here).byMouse("the wheel")};
    const auto map = [&](const char* id, const char* text, MapKind kind) {
        all.push_back(Command(QString("survey.map.") + id, text, [&state, kind] {
                          state.setMap(kind, state.mapBand());
                      }).byMouse("the buttons below the plan"));
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
                                   edit ? void(state.run(std::move(*edit))) : session.report(edit.error());
                               }});
        }
        for (const auto& s : b.states)
            all.push_back({"wall state", q(s.name), "", [&window, &state, id = s.id] {
                               window.showStage("survey");
                               state.setWallState(id);
                           }});
    }
    for (const auto& m : session.models().all())
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
    QObject::connect(&page->state(), &SurveyState::changed, &window, &MainWindow::refreshRooms);
    QObject::connect(page->plan(), &PlanView::wantsDeck, deck, &SurveyDeck::takeFocus);
    QObject::connect(deck, &SurveyDeck::wantsBack, page, &SurveyPage::takeFocus);
    QObject::connect(&window.watch(), &FindingsWatch::changed, deck,
                     [&window, deck] { deck->table()->rows().setFindings(window.watch().found()); });

    Stage stage;
    stage.id = "survey";
    stage.name = "Survey";
    stage.order = 1;
    stage.icon = [](QPainter& p, QPointF m) { // rooms from above
        p.drawPolyline(QPolygonF{m + QPointF(px(-11), px(8)), m + QPointF(px(-11), px(-8)), m + QPointF(px(11), px(-8)),
                                 m + QPointF(px(11), px(3)), m + QPointF(px(1), px(3)), m + QPointF(px(1), px(8)),
                                 m + QPointF(px(-11), px(8))});
    };
    stage.page = page;
    stage.deck = deck;
    stage.focus = [page] { page->takeFocus(); };
    stage.room = [page] { return page->state().room(); };
    stage.show = [page, &session](const Target& place) {
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
    stage.empty = [&session] {
        const auto& p = session.project();
        const bool none = p.devices.empty() && std::all_of(p.buildings.begin(), p.buildings.end(), [](const auto& b) {
                              return b.rooms.empty() && b.racks.empty() && b.backdrops.empty();
                          });
        return none ? QString("Here rooms are drawn and equipped, and you see whether they will work. Begin with a "
                              "room, or with a drawing to draw it on.")
                    : QString();
    };
    stage.firstSteps = {"survey.room", "survey.roomBySize", "survey.backdrop", "demo"};
    QObject::connect(page->plan(), &PlanView::toolChanged, &window, [&window, page] {
        if (page->plan()->tool() != PlanView::Tool::choose)
            window.stepTaken();
    });
    stage.commands = commandsOf(session, page, deck);
    return stage;
}

} // namespace loom::app
