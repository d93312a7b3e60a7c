// Rules, as the window knows it: what happens when, rehearsed.
#include "app/rules/access_panel.h"
#include "app/rules/occasion_list.h"
#include "app/rules/outside_panel.h"
#include "app/rules/rehearsal_deck.h"
#include "app/rules/rule_line.h"
#include "app/rules/rule_view.h"
#include "app/rules/rules_page.h"
#include "app/rules/scene_panel.h"
#include "app/rules/scene_table.h"
#include "app/shell/ask.h"
#include "app/shell/finder.h"
#include "app/shell/main_window.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "rules/scenes.h"
#include <QLineEdit>
#include <QListWidget>
#include <QPainter>

namespace loom::app {

using namespace project;

Stage rules_stage(MainWindow& window) {
    auto& session = window.session();
    auto* page = new RulesPage(session, window.commands());
    auto& state = page->state();
    auto* deck = new RehearsalDeck(state);

    Stage stage;
    stage.id = "rules";
    stage.name = "Rules";
    stage.order = 7;
    stage.icon = [](QPainter& p, QPointF m) { // two that lead to one
        p.drawLine(m + QPointF(px(-10), px(-6)), m + QPointF(px(-4), px(-6)));
        p.drawLine(m + QPointF(px(-4), px(-6)), m + QPointF(px(2), px(0)));
        p.drawLine(m + QPointF(px(-10), px(6)), m + QPointF(px(-4), px(6)));
        p.drawLine(m + QPointF(px(-4), px(6)), m + QPointF(px(2), px(0)));
        p.drawLine(m + QPointF(px(2), px(0)), m + QPointF(px(10), px(0)));
        p.drawLine(m + QPointF(px(6), px(-4)), m + QPointF(px(10), px(0)));
        p.drawLine(m + QPointF(px(6), px(4)), m + QPointF(px(10), px(0)));
    };
    stage.page = page;
    stage.deck = deck;
    stage.focus = [page] { page->view()->setFocus(); };
    const auto noRule = [&state] {
        return state.rule() ? QString() : QString("There is no rule here yet: press New rule.");
    };
    const auto noScene = [&state] {
        return state.scene() ? QString() : QString("There is no scene here yet: Keep now as a scene.");
    };
    const auto noDay = [&state] { return state.rehearsal() ? QString() : QString("Begin a rehearsal first."); };
    const auto noPlace = [&session] {
        return session.project().devices.size() ? QString() : QString("There is nothing that rules could set yet.");
    };
    stage.commands = {
        Command("rules.new", "New rule, for what is chosen at the left", [page] { page->askName(); })
            .on("N", {page->view(), page->occasions()->list()})
            .unless(noPlace)
            .inMenus("New rule\u2026"),
        Command("rules.line", "Type a line for the chosen rule", [page] { page->line()->setFocus(); })
            .on("/", {page->view(), page->occasions()->list()})
            .byMouse("the line at the foot"),
        Command("rules.fill", "Fill the chosen gap of a rule", [page] { page->openGap(); })
            .on("F2", {page->view()})
            .unless(noRule)
            .inMenus("Change\u2026")
            .byMouse("a click on it"),
        Command("rules.toggle", "Put the chosen rule to work, or switch it off",
                [&state] {
                    if (const auto* r = state.rule())
                        state.edit(turnRule(r->id, !r->on));
                })
            .on("Space", {page->view()})
            .unless(noRule)
            .inMenus("At work, or off")
            .byMouse("its switch"),
        Command("rules.needs", "How many conditions of the chosen rule have to hold: all, any, none",
                [page] { page->cycle("needs"); })
            .unless(noRule)
            .inMenus("All, any or none of its conditions"),
        Command("rules.again", "What the chosen rule does when it is woken while at it",
                [page] { page->cycle("again"); })
            .unless(noRule)
            .inMenus("Woken while at it"),
        Command("rules.lineUp", "Move the chosen line, or rule, up", [&state] { state.moveLine(-1); })
            .on("Ctrl+Up", {page->view()})
            .unless(noRule)
            .inMenus("Up"),
        Command("rules.lineDown", "Move the chosen line, or rule, down", [&state] { state.moveLine(1); })
            .on("Ctrl+Down", {page->view()})
            .unless(noRule)
            .inMenus("Down"),
        Command("rules.copy", "Copy the chosen rule",
                [&state] {
                    if (const auto* r = state.rule())
                        state.edit(copyRule(state.project(), r->id));
                })
            .on("Ctrl+D", {page->view()})
            .unless(noRule)
            .inMenus("Copy"),
        Command("rules.remove", "Take the chosen line, or rule, out", [&state] { state.removeLine(); })
            .on("Del Backspace", {page->view()})
            .unless(noRule)
            .inMenus("Take out"),
        Command("rules.script", "Write a script in Lua\u2026", [page] { page->askScript(); }),
        Command("rules.keepScene", "Keep what is set now as a scene\u2026", [page] { page->askScene(); })
            .on("K", {page->view(), page->scenes()->table()})
            .unless(noPlace)
            .byMouse("Keep now as a scene"),
        Command("rules.recall", "Recall the chosen scene into the design",
                [&state] {
                    if (const auto* s = state.scene())
                        state.edit(recallScene(state.project(), s->id));
                })
            .unless(noScene)
            .byMouse("Recall"),
        Command("rules.leaveAlone", "Let the chosen scene leave the chosen parameter alone",
                [page] { page->scenes()->table()->leaveAlone(); })
            .on("Del Backspace", {page->scenes()->table()})
            .unless(noScene),
        Command("rules.removeScene", "Take the chosen scene out",
                [&state] {
                    if (const auto* s = state.scene())
                        state.edit(removeScene(state.project(), s->id));
                })
            .unless(noScene),
        Command("rules.outside", "Add an outside device: a display, a projector, blinds\u2026",
                [page] {
                    page->show(RulesPage::Side::outside);
                    page->outside()->add();
                })
            .unless(noPlace)
            .byMouse("Add\u2026 under Outside devices"),
        Command("rules.describe", "Add an outside device from a description of its kind\u2026",
                [page] {
                    page->show(RulesPage::Side::outside);
                    page->outside()->describe();
                })
            .unless(noPlace)
            .byMouse("From a description\u2026"),
        Command("rules.removeOutside", "Take the chosen outside device out", [page] { page->outside()->takeOut(); })
            .on("Del Backspace", {page->outside()->list()})
            .unless([page] {
                return page->outside()->chosen() ? QString() : QString("There is no outside device here yet.");
            }),
        Command("rules.allow", "Allow others to know and set something of a processor: OSC, HTTP, lines of text\u2026",
                [page] {
                    page->show(RulesPage::Side::access);
                    page->access()->allow();
                })
            .unless([page] {
                return page->access()->device() ? QString() : QString("There is no processor with a program yet.");
            })
            .byMouse("Allow\u2026 under From outside"),
        Command("rules.accessPin", "PIN of a role for control from outside, on the device\u2026",
                [page] {
                    page->show(RulesPage::Side::access);
                    page->access()->setPin();
                })
            .unless([page] {
                return page->access()->access() ? QString() : QString("Nothing is allowed from outside yet.");
            })
            .byMouse("PIN\u2026 under From outside"),
        Command("rules.forbid", "Allow the chosen one from outside no more", [page] { page->access()->forbid(); })
            .on("Del Backspace", {page->access()->list()})
            .unless([page] {
                return page->access()->chosen() ? QString() : QString("Nothing is allowed from outside yet.");
            }),
        Command("rules.place", "Where the project is, for sunrise and the hours of the day\u2026",
                [page, &state] {
                    const auto& at = state.project().place;
                    const auto said = ask(page->view(), "Where the project is",
                                          {{"Latitude, \u00b0", QString::number(at.latitude)},
                                           {"Longitude, \u00b0", QString::number(at.longitude)},
                                           {"Time zone", q(at.zone)}});
                    if (!said)
                        return;
                    std::vector<Edit> edits;
                    for (const auto& [field, text] :
                         {std::pair("latitude", (*said)[0]), {"longitude", (*said)[1]}, {"zone", (*said)[2]}})
                        edits.push_back(setRulePlace(field, text.trimmed().toStdString()));
                    state.edit(together(std::move(edits), "Change where the project is"));
                })
            .staying(),
        Command("rules.rehearse", "Rehearse a day", [&state, deck] { state.begin(deck->begins()); })
            .on("R", {page->view()})
            .byMouse("Begin the day"),
        Command("rules.drop", "End the rehearsal", [&state] { state.drop(); }).unless(noDay).byMouse("End it"),
        Command("rules.play", "Let rehearsed time pass, or pause",
                [&state, deck] { state.playing() ? state.pause() : state.play(deck->times()); })
            .on("P", {page->view(), deck->day()})
            .unless(noDay)
            .byMouse("Let time pass"),
        Command("rules.toEnd", "Rehearse until the end of the day", [&state] { state.toEnd(); })
            .on("End", {deck->day()})
            .unless(noDay)
            .byMouse("To its end"),
        Command("rules.happen", "Say what happens now in the rehearsal", [deck] { deck->happens()->setFocus(); })
            .unless(noDay),
        Command("rules.keepTest", "Keep the rehearsal as a test\u2026",
                [&state, deck] {
                    if (const auto name = askOne(deck, "A test: what happened, and what is set then", {"Name"}))
                        state.keepTest(*name);
                })
            .unless(noDay)
            .byMouse("Keep as a test"),
        Command("rules.tests", "Run the tests of rules again", [&state] { state.runTests(); }).unless([&state] {
            return state.project().ruleTests.empty() ? QString("There is no test yet: rehearse a day and keep it.")
                                                     : QString();
        }),
    };
    QObject::connect(deck, &RehearsalDeck::wants, page, [&window](const QString& id) { window.commands().run(id); });
    stage.show = [page](const Target& place) {
        auto& s = page->state();
        if (!place.room.empty()) {
            s.chooseRoom(place.room);
            return page->isVisible();
        }
        if (place.stage != "Rules")
            return false;
        s.chooseOccasion({});
        if (s.project().rule(place.device))
            s.choose(place.device);
        else if (s.project().scene(place.device))
            s.chooseScene(place.device);
        else if (s.project().outsideDevice(place.device)) {
            page->show(RulesPage::Side::outside);
            page->outside()->choose(place.device);
        } else if (s.project().accessOf(place.device)) {
            page->show(RulesPage::Side::access);
            page->access()->chooseDevice(place.device);
        }
        return true;
    };
    stage.room = [page] { return page->state().room(); };
    QObject::connect(&state, &RulesState::changed, &window, &MainWindow::refreshRooms);
    QObject::connect(&state, &RulesState::rehearsed, &window, &MainWindow::refreshState);
    stage.state = [&state]() -> std::optional<StateWord> {
        if (!state.rehearsal())
            return {};
        return StateWord{"Rehearsing " + state.nowText(), tokens().saffron};
    };
    stage.find = [&window, page](std::vector<Findable>& all) {
        auto& s = page->state();
        for (const auto& r : s.project().rules)
            all.push_back({"rule", q(r.name), "", [&window, page, id = r.id] {
                               window.showStage("rules");
                               page->state().chooseOccasion({});
                               page->state().choose(id);
                           }});
        for (const auto& one : s.project().scenes) {
            all.push_back({"scene",
                           q(one.name),
                           "",
                           [&window, page, id = one.id] {
                               window.showStage("rules");
                               page->state().chooseScene(id);
                           },
                           {},
                           scenePrefix + q(one.id)});
            all.push_back({"recall", q(one.name), "",
                           [page, id = one.id] { page->state().edit(recallScene(page->state().project(), id)); }});
        }
        for (const auto& d : s.project().outside)
            all.push_back({"outside", q(d.name), "", [&window, page, id = d.id] {
                               window.showStage("rules");
                               page->show(RulesPage::Side::outside);
                               page->outside()->choose(id);
                           }});
        for (const auto& a : s.project().access)
            if (const auto* d = s.project().device(a.id))
                all.push_back({"from outside", q(d->name), "", [&window, page, id = a.id] {
                                   window.showStage("rules");
                                   page->show(RulesPage::Side::access);
                                   page->access()->chooseDevice(id);
                               }});
        for (const auto& o : occasionsOf(s.project()))
            all.push_back({"when", q(o.label), "", [&window, page, o] {
                               window.showStage("rules");
                               page->state().chooseOccasion(o);
                           }});
    };
    stage.empty = [&session]() -> QString {
        return session.project().devices.size() == 0 ? "Here it is said what happens when: a wall opens, a button is "
                                                       "pressed, the day ends. There is nothing yet that could "
                                                       "happen."
                                                     : "";
    };
    stage.firstSteps = {"go.survey", "demo"};
    return stage;
}

} // namespace loom::app
