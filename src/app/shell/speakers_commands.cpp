#include "app/shell/finder.h"
#include "app/shell/main_window.h"
#include "app/shell/rail.h"
#include "app/speakers/speakers_page.h"
#include "app/speakers/voicing_plot.h"
#include "app/text.h"

namespace loom::app {

void MainWindow::addSpeakersCommands() {
    const auto here = [this](const char* text, std::function<void()> go) {
        addCommand(text, "", [this, go = std::move(go)] {
            showStage(speakersStage);
            go();
        });
    };
    auto* s = speakers_;
    here("Read a spec sheet", [s] { s->showView(SpeakersPage::sheetView); });
    here("Curves of the voicing", [s] { s->showView(SpeakersPage::curvesView); });
    here("Outputs and loads", [s] { s->showView(SpeakersPage::loadsView); });
    here("New voicing by hand", [s] { s->newByHand(); });
    here("Remove the voicing", [s] { s->removeVoicing(); });
    here("A voicing just for this loudspeaker", [s] { s->ownVoicing(); });
    here("Align the ways of the voicing", [s] { s->align(); });
    here("Fit bells to the target", [s] { s->fit(); });
    here("Open a target curve", [s] { s->openResponse(-1); });
    here("Open a response of the first way", [s] { s->openResponse(0); });
    here("Phase of the voicing", [s] {
        s->plot()->setPhase(!s->plot()->phase());
        s->showView(SpeakersPage::curvesView);
    });
    here("Keep the voicing in the library", [s] { s->keepInLibrary(); });
    here("Store the voicing in a file", [s] { s->askScope(true, 1); });
    here("Store all voicings in a file", [s] { s->askScope(true, 4); });
    here("Recall a voicing from a file", [s] { s->askScope(false, 1); });
    here("Store the amplifier's set-up", [s] { s->askScope(true, 2); });
    here("Recall a set-up on the amplifier", [s] { s->askScope(false, 2); });
    here("Store the set-ups of all amplifiers", [s] { s->askScope(true, 3); });
    here("Recall set-ups of all amplifiers", [s] { s->askScope(false, 3); });
    here("Bring voicings in step", [s] { s->bringInStep(); });
}

void MainWindow::findSpeakers(std::vector<Findable>& all) {
    for (const auto& d : session_.project().devices)
        if (d.program)
            all.push_back({"processor", "Weave " + q(d.name), "", [this, id = d.id] {
                               showStage(weaveStage);
                               session_.work(id);
                           }});
    for (const auto& v : session_.project().voicings) {
        all.push_back({"voicing", q(v.name), "", [this, id = v.id] {
                           showStage(speakersStage);
                           speakers_->state().choose(id);
                           speakers_->showView(SpeakersPage::curvesView);
                       }});
        for (int way = -1; way < static_cast<int>(v.ways.size()); ++way)
            for (const auto& f : project::fieldsOf(v, way))
                all.push_back({"value",
                               q(v.name) +
                                   (way < 0 ? QString() : " \u00b7 " + q(v.ways[static_cast<std::size_t>(way)].name)) +
                                   " \u00b7 " + q(f.label),
                               "",
                               [this, id = v.id] {
                                   showStage(speakersStage);
                                   speakers_->state().choose(id);
                               },
                               [this, id = v.id, way, field = f.id](const QString& text) {
                                   speakers_->state().choose(id);
                                   speakers_->state().setField(way, field, text.toStdString());
                               }});
    }
}

} // namespace loom::app
