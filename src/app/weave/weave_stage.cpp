// Weave, as the window knows it: what can be done to the sound of one processor, and by which keys.
#include "app/deck/deck.h"
#include "app/shell/finder.h"
#include "app/shell/main_window.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "app/weave/weave_page.h"
#include "app/weave/weave_print.h"
#include "app/weave/weave_view.h"
#include "catalogue/catalogue.h"
#include "model/block_names.h"
#include "program/program_edit.h"
#include "program/swatch.h"
#include <QFileDialog>
#include <QPainter>

namespace loom::app {
namespace {

void saveDrawing(Session& session, WeaveView& weave, bool pdf) {
    const QString kind = pdf ? "PDF (*.pdf)" : "SVG (*.svg)", ending = pdf ? ".pdf" : ".svg";
    QString file = QFileDialog::getSaveFileName(&weave, "Save a drawing of the weave", {}, kind);
    if (file.isEmpty())
        return;
    if (!file.endsWith(ending))
        file += ending;
    pdf ? saveWeaveAsPdf(session, weave, file) : saveWeaveAsSvg(session, weave, file);
}

void chooseColour(MainWindow& window, WeaveView* weave) {
    std::vector<Findable> colours;
    for (const auto& name : Theme::threadNames())
        colours.push_back({"colour the chosen lanes", name, "", [weave, name] { weave->colourChosen(name); }});
    colours.push_back({"colour the chosen lanes", "as it comes", "", [weave] { weave->colourChosen({}); }});
    window.offer(std::move(colours));
}

// Begins to compare the chosen lane (or the program, if none or several are), or changes over.
void compare(Session& session) {
    if (session.comparison())
        return session.flipComparison();
    session.beginComparison(session.lanes().size() == 1 ? session.lane() : QString());
    session.report("This is A now. Change what you like; F7 changes over, Shift+F7 stays with what you hear.", false);
}

std::vector<Command> commandsOf(MainWindow& window, WeaveView* w) {
    auto& session = window.session();
    const std::vector<QWidget*> here{w};
    const auto program = [&session] {
        return session.program() ? QString()
                                 : "There is no processor yet. Open a project (Ctrl+O) or begin one (Ctrl+N).";
    };
    const auto lane = [&session, program] {
        const QString none = program();
        return none.isEmpty() && session.lane().isEmpty() ? "Choose a lane or a block first." : none;
    };
    const auto block = [&session, lane] {
        const QString none = lane();
        return none.isEmpty() && session.block().isEmpty() ? "Choose a block on a lane first." : none;
    };
    return {
        Command("weave.insert", "Insert a block on the chosen lane", [w] { w->insertBlock(); })
            .on("/", here)
            .unless(program)
            .inMenus("Insert\u2026")
            .byMouse("right click"),
        Command("weave.route", "Route the chosen lanes", [w] { w->insertBlock("> "); })
            .on(">", here)
            .unless(program)
            .byMouse("drag from end to end, or click a crossing"),
        Command("weave.all", "Choose all lanes of this side", [w] { w->chooseAll(); })
            .on("Ctrl+A", here)
            .unless(program),
        Command("weave.copy", "Copy the chain of the chosen lane", [w] { w->copyLane(); })
            .on("Ctrl+C", here)
            .unless(lane),
        Command("weave.paste", "Paste the chain on the chosen lanes", [w] { w->paste(false); })
            .on("Ctrl+V", here)
            .unless(lane),
        Command("weave.pasteSettings", "Paste settings only on the chosen lanes", [w] { w->paste(true); })
            .on("Ctrl+Shift+V", here)
            .unless(lane),
        Command("weave.remove", "Remove what is chosen", [w] { w->removeChosen(); })
            .on("Del Backspace", here)
            .unless(lane)
            .inMenus("Remove")
            .byMouse("right click"),
        Command("weave.swap", "Swap the block for another", [w] { w->swapChosen(); })
            .on("X", here)
            .unless(lane)
            .inMenus("Swap for another block\u2026")
            .byMouse("right click"),
        Command("weave.rename", "Rename what is chosen", [w] { w->renameLane(); })
            .on("F2", here)
            .unless(lane)
            .inMenus("Rename\u2026")
            .byMouse("double click"),
        Command("weave.defaults", "Restore the defaults of what is chosen", [w] { w->restoreChosen(false); })
            .unless(lane)
            .inMenus("Restore its defaults")
            .byMouse("right click; a value: double click"),
        Command("weave.asKept", "Restore what is chosen as kept", [w] { w->restoreChosen(true); })
            .unless(lane)
            .inMenus("Restore it as kept")
            .byMouse("right click"),
        Command("weave.note", "Write a note at what is chosen", [w] { w->noteChosen(); })
            .on("N", here)
            .unless(lane)
            .inMenus("Note\u2026")
            .byMouse("right click; a value: right click"),
        Command("weave.protect", "Protect what is chosen, or take its protection off", [w] { w->protectChosen(); })
            .on("K", here)
            .unless(lane)
            .inMenus("Protect, or no longer")
            .byMouse("right click; a value: right click"),
        Command("weave.mute", "Mute, or open again, what is chosen or pointed at", [w] { w->muteChosen(); })
            .on("M", here)
            .unless(program)
            .byMouse("right click on a crossing"),
        Command("weave.compare", "Compare, or hear the other", [&session] { compare(session); })
            .on("F7")
            .unless(program)
            .staying(),
        Command("weave.endCompare", "End the comparison", [&session] { session.endComparison(); })
            .on("Shift+F7")
            .staying(),
        Command("weave.colour", "Colour the chosen lanes", [&window, w] { chooseColour(window, w); })
            .unless(lane)
            .byMouse("right click"),
        Command("weave.group", "Group the chosen lanes", [w] { w->groupChosen(); })
            .on("G", here)
            .unless(lane)
            .inMenus("Group\u2026")
            .byMouse("right click"),
        Command("weave.groupByName", "Group all lanes by name", [w] { w->groupAll(project::GroupBy::name); })
            .unless(program),
        Command("weave.groupByPort", "Group all lanes by port", [w] { w->groupAll(project::GroupBy::port); })
            .unless(program),
        Command("weave.ungroup", "Take all lanes out of their groups", [w] { w->groupAll(project::GroupBy::none); })
            .unless(program),
        Command("weave.fold", "Fold the group", [w] { w->foldChosen(true); })
            .on("Alt+Left", here)
            .unless(lane)
            .byMouse("click its heading's triangle"),
        Command("weave.unfold", "Open the group", [w] { w->foldChosen(false); })
            .on("Alt+Right", here)
            .unless(lane)
            .byMouse("click its heading's triangle"),
        Command("weave.up", "Move the lanes up", [w] { w->moveLanes(-1); })
            .on("Alt+Up", here)
            .unless(lane)
            .byMouse("drag the name"),
        Command("weave.down", "Move the lanes down", [w] { w->moveLanes(1); })
            .on("Alt+Down", here)
            .unless(lane)
            .byMouse("drag the name"),
        Command("weave.towardsSource", "Move the block towards the source", [w] { w->moveChosen(-1); })
            .on("Ctrl+Left", here)
            .unless(block)
            .byMouse("drag the bead"),
        Command("weave.towardsDestination", "Move the block towards the destination", [w] { w->moveChosen(1); })
            .on("Ctrl+Right", here)
            .unless(block)
            .byMouse("drag the bead"),
        Command("weave.link", "Link the chosen lanes", [w] { w->linkChosen(); })
            .on("L", here)
            .unless(lane)
            .inMenus("Link these lanes")
            .byMouse("right click"),
        Command("weave.unlink", "Unlink the chosen lanes", [w] { w->unlinkChosen(); })
            .on("Shift+L", here)
            .unless(lane)
            .inMenus("Unlink")
            .byMouse("right click"),
        Command("weave.relink", "Relink what is apart on the chosen lane", [w] { w->relinkChosen(); })
            .unless(lane)
            .inMenus("Relink what is apart")
            .byMouse("right click"),
        Command("weave.swatch", "Keep what is chosen as a swatch", [w] { w->keepSwatch(); })
            .unless(lane)
            .inMenus("Keep as a swatch\u2026")
            .byMouse("right click"),
        Command("weave.mixMinus", "Mix-minus: leave out what comes back", [w] { w->leaveOwnSound(); })
            .unless(lane)
            .byMouse("right click the matrix mixer"),
        Command("weave.align", "Align the lanes that meet at the chosen block",
                [&session] { session.align(session.block().isEmpty() ? session.lane() : session.block()); })
            .unless(lane)
            .byMouse("Align lanes in its deck"),
        Command("weave.alignAll", "Align lanes wherever one sound comes together",
                [&session] {
                    session.setProgram(project::alignAllLanes(*session.program(), session.device()->rate),
                                       "Align lanes");
                })
            .unless(program),
        Command("weave.listen", "Listen to the chosen thread", [&window] { window.commands().run("bench.listen"); })
            .on("Space", here)
            .unless(program)
            .inMenus("Listen here")
            .byMouse("right click")
            .staying(),
        Command("weave.measure", "Measure at the chosen thread", [w] { w->pinChosen(); })
            .on("E", here)
            .unless(program)
            .inMenus("Measure here")
            .byMouse("right click"),
        Command("weave.putMute", "Mute the chosen thread without changing the program", [w] { w->putMute(); })
            .on("Shift+M", here)
            .unless(program)
            .inMenus("Mute here, without changing the program")
            .byMouse("right click"),
        Command("weave.inject", "Inject sound at the chosen thread", [w] { w->inject(); })
            .on("I", here)
            .unless(program)
            .inMenus("Inject here\u2026")
            .byMouse("right click"),
        Command("weave.bridge", "Bridge the chosen thread to another", [w] { w->bridge(); })
            .on("B", here)
            .unless(program)
            .inMenus("Bridge from here")
            .byMouse("right click"),
        Command("weave.trace", "Trace back from the chosen destination", [w] { w->traceChosen(); })
            .on("T", here)
            .unless(lane)
            .inMenus("Trace back from here")
            .byMouse("right click"),
        Command("weave.clear", "Clear all tools", [w] { w->clearTools(); }).on("F9").byMouse("Clear all").staying(),
        Command("weave.whole", "Whole weave", [w] { w->zoomToFit(); }).on("0", here).byMouse("the percent button"),
        Command("weave.life", "Weave at life size", [w] { w->setZoom(1); }).on("1", here).byMouse("the percent button"),
        Command("weave.nearer", "Weave larger", [w] { w->setZoom(w->zoom() * 1.2); })
            .on("+", here)
            .byMouse("Ctrl and the wheel"),
        Command("weave.farther", "Weave smaller", [w] { w->setZoom(w->zoom() / 1.2); })
            .on("-", here)
            .byMouse("Ctrl and the wheel"),
        Command("weave.svg", "Save the weave as SVG", [&session, w] { saveDrawing(session, *w, false); })
            .unless(program),
        Command("weave.pdf", "Save the weave as PDF on A3", [&session, w] { saveDrawing(session, *w, true); })
            .on("Ctrl+P")
            .unless(program)
            .staying(),
        Command("weave.deck", "To the deck of what is chosen", [&window] { window.deck().takeFocus(); })
            .on("Return Enter", here)
            .unless(lane),
    };
}

void findIn(MainWindow& window, WeaveView* w, const std::function<void(const QString&)>& goTo,
            std::vector<Findable>& all) {
    auto& session = window.session();
    for (const auto& d : session.project().devices)
        if (d.program)
            all.push_back({"processor", "Weave " + q(d.name), "", [&window, &session, id = d.id] {
                               window.showStage("weave");
                               session.work(id);
                           }});
    const auto* p = session.program();
    if (!p)
        return;
    std::vector<Findable> values;
    const auto device = q(session.device()->id);
    const project::BlockNames names(*p);
    for (const auto& b : p->blocks) {
        const QString id = q(b.id), name = q(names.of(b));
        const auto* lane = session.layout().laneOf(b.id);
        const auto go = [goTo, id] { goTo(id); };
        const bool end = !lane || lane->isEnd(b.id);
        all.push_back({end ? "lane" : "block", name, "", go, {}, (end ? "strip:" : "bead:") + device + "/" + id});
        if (!engine::findKind(b.kind) || engine::isMatrix(b))
            continue;
        const engine::BlockView view(b);
        for (const auto& s : view.table->specs())
            values.push_back({"value", name + " \u00b7 " + q(s.label), "", go,
                              [&session, id, s](const QString& text) {
                                  const auto v = engine::parseValue(s, text.toStdString());
                                  v ? void(session.set(id, q(s.id), *v)) : session.report(q(v.error().text()));
                              },
                              device + "/" + id + "." + q(s.id)});
    }
    all.insert(all.end(), values.begin(), values.end());
    for (const auto& entry : project::library()) {
        const QString name = q(entry.swatch.name);
        all.push_back({"swatch", name, "", [w, swatch = entry.swatch] { w->insertSwatch(swatch); }});
        if (!entry.own)
            continue;
        all.push_back({"rename swatch", name, "", [w, name] { w->renameSwatch(name); }});
        all.push_back({"remove swatch", name, "", [w, name] { w->removeSwatch(name); }});
    }
}

} // namespace

Stage weave_stage(MainWindow& window) {
    auto& session = window.session();
    auto* page = new WeavePage(session, window.commands());
    auto* weave = page->weave();
    QObject::connect(&window, &MainWindow::refreshed, page, &WeavePage::refresh);

    Stage stage;
    stage.id = "weave";
    stage.name = "Weave";
    stage.order = 2;
    stage.icon = [](QPainter& p, QPointF m) { // crossing threads
        for (const double d : {-7.0, 0.0, 7.0}) {
            p.drawLine(m + QPointF(px(-10), px(d)), m + QPointF(px(10), px(d)));
            p.drawLine(m + QPointF(px(d), px(-10)), m + QPointF(px(d), px(10)));
        }
    };
    stage.page = page;
    stage.deck = &window.deck();
    stage.focus = [weave] { weave->setFocus(); };
    stage.beat = [weave, deck = &window.deck()] {
        weave->refresh();
        deck->refreshMeters();
    };
    const auto goTo = [&session](const QString& block) {
        const auto* lane = session.layout().laneOf(block.toStdString());
        session.choose(lane ? q(lane->end) : block, lane && !lane->isEnd(block.toStdString()) ? block : QString());
    };
    stage.show = [&session, goTo](const Target& place) {
        const auto* d = session.project().device(place.device);
        const bool whole = place.block.empty() && place.stage == "Weave"; // of the program
        if (!d || !d->program || !(whole || d->program->find(place.block)))
            return false;
        if (session.device() != d)
            session.work(place.device);
        if (!whole)
            goTo(q(place.block));
        return true;
    };
    stage.find = [&window, weave, goTo](std::vector<Findable>& all) {
        findIn(
            window, weave,
            [&window, goTo](const QString& block) {
                goTo(block);
                window.showStage("weave");
            },
            all);
    };
    stage.begin = [&window, &session](std::vector<Findable>& all) {
        for (const auto& m : session.models().all())
            if (m.workBudget > 0 && !m.loudspeaker)
                all.push_back(
                    {"new project with", q(m.name + " \u00b7 " + m.purpose), "", [&window, &session, id = q(m.id)] {
                         if (session.start(id))
                             window.showStage("weave");
                     }});
    };
    stage.empty = [&session]() -> QString {
        if (!session.program())
            return "Weave shows the sound of a processor, from its inputs to its outputs. There is none yet: put one "
                   "on "
                   "the plan in Survey, or begin with one.";
        if (session.program()->blocks.empty())
            return "This program is empty. Say what there is: source Delegate x8, then destination Ceiling x2. Then "
                   "choose lanes and go on: preamp 36 highpass 90, or > ceiling* -6.";
        return {};
    };
    stage.firstSteps = {"weave.insert", "new", "go.survey", "demo"};
    stage.commands = commandsOf(window, weave);
    return stage;
}

} // namespace loom::app
