// Speakers, as the window knows it: voicings, and what hangs on amplifiers.
#include "app/shell/finder.h"
#include "app/shell/findings_watch.h"
#include "app/shell/main_window.h"
#include "app/speakers/loads_table.h"
#include "app/speakers/speakers_deck.h"
#include "app/speakers/speakers_page.h"
#include "app/speakers/voicing_plot.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include <QPainter>

namespace loom::app {
namespace {

std::vector<Command> commandsOf(SpeakersPage* s) {
    const auto voicing = [s] {
        return s->state().voicing() ? QString() : "Choose a voicing first, or make one from a spec sheet.";
    };
    const QString files = "Library and files";
    return {
        Command("speakers.sheet", "Read a spec sheet", [s] { s->showView(SpeakersPage::sheetView); })
            .byMouse("From a sheet"),
        Command("speakers.curves", "Curves of the voicing", [s] { s->showView(SpeakersPage::curvesView); })
            .byMouse("Curves"),
        Command("speakers.loads", "Outputs and loads", [s] { s->showView(SpeakersPage::loadsView); })
            .byMouse("Outputs and loads"),
        Command("speakers.byHand", "New voicing by hand", [s] { s->newByHand(); }).byMouse("By hand"),
        Command("speakers.remove", "Remove the voicing", [s] { s->removeVoicing(); }).unless(voicing).byMouse(files),
        Command("speakers.own", "A voicing just for this loudspeaker", [s] { s->ownVoicing(); })
            .unless(voicing)
            .byMouse("Just for this one"),
        Command("speakers.align", "Align the ways of the voicing", [s] { s->align(); })
            .unless(voicing)
            .byMouse("Align ways"),
        Command("speakers.fit", "Fit bells to the target", [s] { s->fit(); }).unless(voicing).byMouse("Fit bells"),
        Command("speakers.target", "Open a target curve", [s] { s->openResponse(-1); })
            .unless(voicing)
            .byMouse("Files"),
        Command("speakers.response", "Open a response of the first way", [s] { s->openResponse(0); })
            .unless(voicing)
            .byMouse("Files"),
        Command("speakers.impedance", "Open an impedance curve of the first way", [s] { s->openImpedance(0); })
            .unless(voicing)
            .byMouse("Files"),
        Command("speakers.phase", "Phase of the voicing",
                [s] {
                    s->plot()->setPhase(!s->plot()->phase());
                    s->showView(SpeakersPage::curvesView);
                })
            .byMouse("Phase"),
        Command("speakers.keep", "Keep the voicing in the library", [s] { s->keepInLibrary(); })
            .unless(voicing)
            .byMouse(files),
        Command("speakers.store", "Store the voicing in a file", [s] { s->askScope(true, 1); })
            .unless(voicing)
            .byMouse(files),
        Command("speakers.asSheet", "Write the voicing as a sheet", [s] { s->askSheet(); })
            .unless(voicing)
            .byMouse(files),
        Command("speakers.storeAll", "Store all voicings in a file", [s] { s->askScope(true, 4); }).byMouse(files),
        Command("speakers.recall", "Recall a voicing from a file", [s] { s->askScope(false, 1); }).byMouse(files),
        Command("speakers.storeSetup", "Store the amplifier's set-up", [s] { s->askScope(true, 2); }).byMouse(files),
        Command("speakers.recallSetup", "Recall a set-up on the amplifier", [s] { s->askScope(false, 2); })
            .byMouse(files),
        Command("speakers.storeSetups", "Store the set-ups of all amplifiers", [s] { s->askScope(true, 3); })
            .byMouse(files),
        Command("speakers.recallSetups", "Recall set-ups of all amplifiers", [s] { s->askScope(false, 3); })
            .byMouse(files),
        Command("speakers.inStep", "Bring voicings in step", [s] { s->bringInStep(); }),
    };
}

void findIn(MainWindow& window, SpeakersPage* page, std::vector<Findable>& all) {
    for (const auto& v : window.session().project().voicings) {
        const auto go = [&window, page, id = v.id] {
            window.showStage("speakers");
            page->state().choose(id);
            page->showView(SpeakersPage::curvesView);
        };
        all.push_back({"voicing", q(v.name), "", go});
        for (int way = -1; way < static_cast<int>(v.ways.size()); ++way)
            for (const auto& f : project::fieldsOf(v, way))
                all.push_back({"value",
                               q(v.name) +
                                   (way < 0 ? QString() : " \u00b7 " + q(v.ways[static_cast<std::size_t>(way)].name)) +
                                   " \u00b7 " + q(f.label),
                               "", go, [page, id = v.id, way, field = f.id](const QString& text) {
                                   page->state().choose(id);
                                   page->state().setField(way, field, text.toStdString());
                               }});
    }
}

} // namespace

Stage speakers_stage(MainWindow& window) {
    auto* page = new SpeakersPage(window.session());
    auto* deck = new SpeakersDeck(page->state());
    auto* loads = page->loads();
    QObject::connect(deck, &SpeakersDeck::wantsBack, page, &SpeakersPage::takeFocus);
    QObject::connect(&window.watch(), &FindingsWatch::changed, page,
                     [&window, loads] { loads->rows().setFindings(window.watch().found()); });

    Stage stage;
    stage.id = "speakers";
    stage.name = "Speakers";
    stage.order = 5;
    stage.icon = [](QPainter& p, QPointF m) { // a box with two cones
        p.drawRoundedRect(QRectF(m + QPointF(px(-7), px(-11)), QSizeF(px(14), px(22))), px(2), px(2));
        p.drawEllipse(m + QPointF(0, px(-5)), px(2.2), px(2.2));
        p.drawEllipse(m + QPointF(0, px(4)), px(4.5), px(4.5));
    };
    stage.page = page;
    stage.deck = deck;
    stage.focus = [page] { page->plot()->setFocus(); };
    stage.show = [page, loads](const Target& place) { // an amplifier's output
        const int output = loads->rows().rowOf(place.device, place.block);
        if (output < 0)
            return false;
        page->showView(SpeakersPage::loadsView);
        loads->selectRow(output);
        return true;
    };
    stage.find = [&window, page](std::vector<Findable>& all) { findIn(window, page, all); };
    stage.empty = [&session = window.session()]() -> QString {
        const auto& p = session.project();
        const bool none = p.voicings.empty() && std::none_of(p.devices.begin(), p.devices.end(), [](const auto& d) {
                              const auto* m = d.spec();
                              return m && (m->loudspeaker || m->amplifier);
                          });
        return none ? "Voicings fit loudspeakers to their rooms: crossover, equaliser, delay and limits. There is "
                      "neither "
                      "a loudspeaker nor a voicing yet. Paste what the maker's sheet says, or put loudspeakers on the "
                      "plan."
                    : "";
    };
    stage.firstSteps = {"speakers.sheet", "speakers.byHand", "go.survey", "demo"};
    stage.commands = commandsOf(page);
    return stage;
}

} // namespace loom::app
