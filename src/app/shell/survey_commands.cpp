#include "app/shell/finder.h"
#include "app/shell/main_window.h"
#include "app/shell/rail.h"
#include "app/survey/plan_view.h"
#include "app/survey/shelf.h"
#include "app/survey/survey_deck.h"
#include "app/survey/survey_page.h"
#include "app/text.h"
#include "project/catalogue.h"

namespace loom::app {

void MainWindow::addSurveyCommands() {
    const auto onPlan = [this](const char* text, std::function<void()> go) {
        addCommand(text, "", [this, go = std::move(go)] {
            showStage(surveyStage);
            go();
        });
    };
    auto* plan = survey_->plan();
    onPlan("Draw a room", [plan] { plan->setTool(PlanView::Tool::room); });
    onPlan("A room by its size", [plan] { plan->askSize(); });
    onPlan("Put seats", [plan] { plan->setTool(PlanView::Tool::seats); });
    onPlan("Put a talker", [plan] { plan->setTool(PlanView::Tool::talker); });
    onPlan("Put a table", [plan] { plan->setTool(PlanView::Tool::piece, project::Piece::Kind::table); });
    onPlan("Put a lectern", [plan] { plan->setTool(PlanView::Tool::piece, project::Piece::Kind::lectern); });
    onPlan("Put a screen", [plan] { plan->setTool(PlanView::Tool::piece, project::Piece::Kind::screen); });
    onPlan("Put a door", [plan] { plan->setTool(PlanView::Tool::piece, project::Piece::Kind::door); });
    onPlan("Put a stage or slope", [plan] { plan->setTool(PlanView::Tool::piece, project::Piece::Kind::stage); });
    onPlan("Draw a movable wall", [plan] { plan->setTool(PlanView::Tool::wall); });
    onPlan("Put a rack", [plan] { plan->setTool(PlanView::Tool::rack); });
    onPlan("From the side, or from above", [this] { survey_->showSide(survey_->plan()->isVisible()); });
    onPlan("Paste on the plan", [plan] { plan->paste(); });
    onPlan("Ceiling grid", [this] { survey_->ceilingGrid(); });
    onPlan("Open a backdrop", [this] { survey_->openBackdrop(); });
    onPlan("Scale the backdrop", [plan] { plan->setTool(PlanView::Tool::scale); });
    onPlan("Make a model for the shelf", [this] { survey_->makeModel(); });
    onPlan("Add a model file to the shelf", [this] { survey_->addModelFile(); });
    onPlan("Search the shelf", [this] { survey_->shelf()->takeFocus(); });
    onPlan("Copy what is chosen on the plan", [plan] { plan->duplicateChosen(); });
    onPlan("Mirror what is chosen on the plan", [plan] { plan->mirrorChosen(); });
    onPlan("Remove what is chosen on the plan", [plan] { plan->removeChosen(); });
    onPlan("Rename all devices", [this] { surveyDeck_->renameAll(); });
    onPlan("Address all devices", [this] { surveyDeck_->addressAll(); });
    onPlan("Copy the room", [this] { surveyDeck_->copyRoom(); });
    onPlan("Copy the settings of the chosen device", [this] { surveyDeck_->copySettings(); });
    onPlan("Paste settings on the chosen devices", [this] { surveyDeck_->pasteSettings(); });
    onPlan("Whole building", [plan] { plan->fit(); });
    onPlan("The room fills the plan", [plan] { plan->fitRoom(); });
    const std::pair<const char*, MapKind> maps[] = {{"Map of levels", MapKind::level},
                                                    {"Map of direct sound", MapKind::direct},
                                                    {"Map of one octave", MapKind::band},
                                                    {"Map of clarity", MapKind::clarity},
                                                    {"Map of speech transmission index", MapKind::sti},
                                                    {"Map of pick-up", MapKind::pickUp},
                                                    {"Map of stray level", MapKind::stray},
                                                    {"Map of the loudest loudspeaker", MapKind::loudest},
                                                    {"No map", MapKind::none}};
    for (const auto& [text, kind] : maps)
        onPlan(text, [this, kind = kind] { survey_->state().setMap(kind, survey_->state().mapBand()); });
}

// A device, a room, or what else a finding names.
void MainWindow::showOnPlan(const std::string& id) {
    showStage(surveyStage);
    const auto& p = session_.project();
    if (p.room(id)) {
        survey_->state().setRoom(id);
        survey_->state().choose({"room:" + id});
    } else if (const auto* d = p.device(id)) {
        if (!d->room.empty())
            survey_->state().setRoom(d->room);
        survey_->state().choose({"device:" + id});
    }
}

void MainWindow::findOnPlan(std::vector<Findable>& all) {
    const auto& p = session_.project();
    for (const auto& d : p.devices)
        all.push_back({"device", q(d.name + (d.address.empty() ? "" : " \u00b7 " + d.address)), "",
                       [this, id = d.id] { showOnPlan(id); }});
    for (const auto& b : p.buildings) {
        for (const auto& r : b.rooms) {
            all.push_back({"room", q(r.name), "", [this, id = r.id] {
                               showOnPlan(id);
                               survey_->plan()->fitRoom();
                           }});
            for (const auto& f : project::fieldsOf(p, "room:" + r.id))
                all.push_back(
                    {"value", q(r.name + " \u00b7 " + f.label), "", [this, id = r.id] { showOnPlan(id); },
                     [this, id = r.id, field = f.id](const QString& text) {
                         auto edit = project::setField(session_.project(), {"room:" + id}, field, text.toStdString());
                         edit ? void(survey_->state().run(std::move(*edit))) : session_.report(edit.trouble());
                     }});
        }
        for (const auto& s : b.states)
            all.push_back({"wall state", q(s.name), "", [this, id = s.id] {
                               showStage(surveyStage);
                               survey_->state().setWallState(id);
                           }});
    }
    for (const auto& m : project::catalogue())
        all.push_back({"put on the plan", q(m.name), "", [this, id = m.id] {
                           showStage(surveyStage);
                           survey_->plan()->setModel(id);
                       }});
    const auto& suggestions = survey_->state().result().suggestions;
    for (std::size_t i = 0; i < suggestions.size(); ++i)
        all.push_back({"suggestion", q(suggestions[i].text), "", [this, i] { survey_->state().applySuggestion(i); }});
}

} // namespace loom::app
