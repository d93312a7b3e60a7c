#include "app/shell/finder.h"
#include "app/shell/findings_watch.h"
#include "app/shell/main_window.h"
#include "app/shell/rail.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "app/weave/weave_view.h"
#include "project/findings.h"
#include "project/program_edit.h"
#include "project/swatch.h"
#include <QShortcut>

namespace loom::app {

void MainWindow::addCommand(const QString& text, const QString& key, std::function<void()> go) {
    if (!key.isEmpty()) {
        auto* shortcut = new QShortcut(QKeySequence(key), this);
        connect(shortcut, &QShortcut::activated, this, go);
    }
    commands_.push_back({text, key, std::move(go)});
}

void MainWindow::buildCommands() {
    addCommand("Run or stop the bench", "F5", [this] { toggleBench(); });
    addCommand("Undo", "Ctrl+Z", [this] { session_.undo(); });
    addCommand("Redo", "Ctrl+Shift+Z", [this] { session_.redo(); });
    addCommand("New project", "Ctrl+N", [this] { newProject(); });
    addCommand("Open a project", "Ctrl+O", [this] { openFile(); });
    addCommand("Save", "Ctrl+S", [this] { session_.path().isEmpty() ? saveFileAs() : void(session_.save()); });
    addCommand("Save as another file", "Ctrl+Shift+S", [this] { saveFileAs(); });
    addCommand("Find or do", "Ctrl+K", [this] { find(); });
    addCommand("Show findings", "Ctrl+J", [this] { showFindings(); });
    addCommand("Go to Survey", "Ctrl+1", [this] { showStage(surveyStage); });
    addCommand("Go to Weave", "Ctrl+2", [this] { showStage(weaveStage); });
    addCommand("Go to Speakers", "Ctrl+3", [this] { showStage(speakersStage); });
    addCommand("Go to Bench", "Ctrl+4", [this] { showStage(benchStage); });
    addCommand("Go to Site", "Ctrl+5", [this] { showStage(siteStage); });
    addSurveyCommands();
    addSpeakersCommands();
    addSiteCommands();
    addCommand("Insert a block on the chosen lane", "", [this] { weave_->insertBlock(); });
    addCommand("Route the chosen lanes", "", [this] { weave_->insertBlock("> "); });
    addCommand("Choose all lanes of this side", "", [this] { weave_->chooseAll(); });
    addCommand("Copy the chain of the chosen lane", "", [this] { weave_->copyLane(); });
    addCommand("Paste the chain on the chosen lanes", "", [this] { weave_->paste(false); });
    addCommand("Paste settings only on the chosen lanes", "", [this] { weave_->paste(true); });
    addCommand("Remove what is chosen", "", [this] { weave_->removeChosen(); });
    addCommand("Swap the block for another", "", [this] { weave_->swapChosen(); });
    addCommand("Restore the defaults of what is chosen", "", [this] { weave_->restoreChosen(false); });
    addCommand("Restore what is chosen as kept", "", [this] { weave_->restoreChosen(true); });
    addCommand("Compare, or hear the other", "F7", [this] { compare(); });
    addCommand("End the comparison", "Shift+F7", [this] { session_.endComparison(); });
    addCommand("Colour the chosen lanes", "", [this] { chooseColour(); });
    addCommand("Group the chosen lanes", "", [this] { weave_->groupChosen(); });
    addCommand("Group all lanes by name", "", [this] { weave_->groupAll(project::GroupBy::name); });
    addCommand("Group all lanes by port", "", [this] { weave_->groupAll(project::GroupBy::port); });
    addCommand("Take all lanes out of their groups", "", [this] { weave_->groupAll(project::GroupBy::none); });
    addCommand("Fold the group", "", [this] { weave_->foldChosen(true); });
    addCommand("Open the group", "", [this] { weave_->foldChosen(false); });
    addCommand("Move the lanes up", "", [this] { weave_->moveLanes(-1); });
    addCommand("Move the lanes down", "", [this] { weave_->moveLanes(1); });
    addCommand("Link the chosen lanes", "", [this] { weave_->linkChosen(); });
    addCommand("Unlink the chosen lanes", "", [this] { weave_->unlinkChosen(); });
    addCommand("Relink what is apart on the chosen lane", "", [this] { weave_->relinkChosen(); });
    addCommand("Keep what is chosen as a swatch", "", [this] { weave_->keepSwatch(); });
    addCommand("Mix-minus: leave out what comes back", "", [this] { weave_->leaveOwnSound(); });
    addCommand("Mute the chosen thread without changing the program", "", [this] { weave_->putMute(); });
    addCommand("Inject sound at the chosen thread", "", [this] { weave_->inject(); });
    addCommand("Bridge the chosen thread to another", "", [this] { weave_->bridge(); });
    addCommand("Measure at the chosen thread", "", [this] { weave_->pinChosen(); });
    addCommand("Trace back from the chosen destination", "", [this] { weave_->traceChosen(); });
    addCommand("Clear all tools", "F9", [this] { weave_->clearTools(); });
    addCommand("Whole weave", "", [this] { weave_->zoomToFit(); });
    addCommand("Weave at life size", "", [this] { weave_->setZoom(1); });
    addCommand("Save the weave as SVG", "", [this] { saveDrawing(false); });
    addCommand("Save the weave as PDF on A3", "Ctrl+P", [this] { saveDrawing(true); });
    addCommand("Move the block towards the source", "", [this] { weave_->moveChosen(-1); });
    addCommand("Move the block towards the destination", "", [this] { weave_->moveChosen(1); });
    addCommand("Align the lanes that meet at the chosen block", "", [this] { alignChosen(); });
    addCommand("Align lanes wherever one sound comes together", "", [this] {
        if (session_.program())
            session_.setProgram(project::alignAllLanes(*session_.program(), session_.device()->rate), "Align lanes");
    });
    addCommand("Rename what is chosen", "", [this] { weave_->renameLane(); });
    addCommand("Listen to the chosen thread", "", [this] { listen(); });
    addCommand("Record the chosen thread to WAV", "F8", [this] { record(); });
    addCommand("Linen or Night", "Ctrl+T", [this] { Theme::get().setNight(!Theme::get().night()); });
    addCommand("Larger text", "Ctrl++", [] { Theme::get().setPercent(Theme::get().percent() + 10); });
    addCommand("Smaller text", "Ctrl+-", [] { Theme::get().setPercent(Theme::get().percent() - 10); });
    addCommand("Text at 100 %", "Ctrl+0", [] { Theme::get().setPercent(100); });
    auto* equals = new QShortcut(QKeySequence("Ctrl+="), this); // where + needs Shift
    connect(equals, &QShortcut::activated, this, [] { Theme::get().setPercent(Theme::get().percent() + 10); });
}

void MainWindow::find() {
    std::vector<Findable> all;
    for (const auto& c : commands_)
        all.push_back({"do", c.text, c.key, c.go});
    if (const auto* p = session_.program()) {
        const auto& layout = session_.layout();
        std::vector<Findable> values;
        const project::BlockNames names(*p);
        for (const auto& b : p->blocks) {
            const QString id = q(b.id), name = q(names.of(b));
            const auto* lane = layout.laneOf(b.id);
            const bool end = !lane || lane->isEnd(b.id);
            const auto go = [this, id] { goTo(id); };
            all.push_back({end ? "lane" : "block", name, "", go});
            if (!engine::findKind(b.kind) || b.kind == "matrix")
                continue;
            const engine::BlockView view(b);
            for (const auto& s : view.table->specs())
                values.push_back({"value", name + " \u00b7 " + q(s.label), "", go, [this, id, s](const QString& text) {
                                      const auto v = engine::parseValue(s, text.toStdString());
                                      v ? void(session_.set(id, q(s.id), *v)) : session_.report(q(v.trouble().text()));
                                  }});
        }
        all.insert(all.end(), values.begin(), values.end());
        for (const auto& entry : project::library()) {
            all.push_back(
                {"swatch", q(entry.swatch.name), "", [this, swatch = entry.swatch] { weave_->insertSwatch(swatch); }});
            if (!entry.own)
                continue;
            const QString name = q(entry.swatch.name);
            all.push_back({"rename swatch", name, "", [this, name] { weave_->renameSwatch(name); }});
            all.push_back({"remove swatch", name, "", [this, name] { weave_->removeSwatch(name); }});
        }
    }
    for (const auto& f : watch_->found())
        all.push_back({"finding", q(f.place + ": " + f.reason), "", [this, f] { goToPlace(q(f.device), q(f.block)); }});
    findOnPlan(all);
    findSpeakers(all);
    findOnSite(all);
    finder_->open(std::move(all), "recent");
}

} // namespace loom::app
