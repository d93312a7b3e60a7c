// Site, as the window knows it: from found devices to a system that is kept.
#include "app/shell/finder.h"
#include "app/shell/main_window.h"
#include "app/site/pairing_view.h"
#include "app/site/site_page.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include <QPainter>

namespace loom::app {
namespace {

std::vector<Command> commandsOf(SitePage* s) {
    const auto found = [s] {
        return s->fleet().found().empty() ? QString("No device is found yet. Look for devices first (F6).") : QString();
    };
    const auto paired = [s] {
        return s->fleet().members().empty() ? QString("No device is paired yet. Look for devices (F6) and pair them.")
                                            : QString();
    };
    const auto panel = [s](int p) { return [s, p] { s->showPanel(p); }; };
    return {
        Command("site.look", "Look for devices", [s] { s->look(); }).on("F6").byMouse("Look again"),
        Command("site.pair", "Pair by model and name", [s] { s->pairAll(); })
            .unless(found)
            .byMouse("Pair by model and name"),
        Command("site.pairRest", "Pair the rest by position", [s] { s->pairByPosition(); })
            .unless(found)
            .byMouse("Pair the rest by position"),
        Command("site.all", "Choose all planned devices", [s] { s->pairing()->chooseAll(); })
            .on("Ctrl+A", {s->pairing()})
            .byMouse("Ctrl and click"),
        Command("site.swap", "Swap the two chosen devices on site", [s] { s->swapChosen(); }).unless(paired),
        Command("site.unpair", "Unpair the chosen devices", [s] { s->unpairChosen(); })
            .unless(paired)
            .byMouse("Unpair"),
        Command("site.add", "Put all found devices into the plan", [s] { s->addAllFound(); }).unless(found),
        Command("site.blink", "Let the chosen device blink", [s] { s->identifyChosen(); })
            .unless(found)
            .byMouse("Blink"),
        Command("site.tone", "Let the chosen device sound a tone", [s] { s->identifyChosen(true); })
            .unless(found)
            .byMouse("Tone"),
        Command("site.encrypt", "Encrypt the sound between devices with a new key", [s] { s->encryptSound(); })
            .unless(paired)
            .byMouse("Encrypt the sound"),
        Command("site.image", "Save the chosen board's image as Intel HEX\u2026", [s] { s->saveImage(); }),
        Command("site.take", "Take all from the devices", [s] { s->takeFromDevice(); })
            .unless(paired)
            .byMouse("Take from device"),
        Command("site.back", "Go back to the revision before", [s] { s->goBack(); }).unless(paired).byMouse("Go back"),
        Command("site.todo", "Show what is wrong on site", panel(SitePage::todoPanel)).byMouse("To do"),
        Command("site.differences", "Show where devices differ", panel(SitePage::differencesPanel))
            .byMouse("Differences"),
        Command("site.device", "Show the chosen device's set-up and revisions", panel(SitePage::devicePanel))
            .byMouse("Device"),
        Command("site.seal", "Seal devices with a password, or open them", panel(SitePage::sealPanel)).byMouse("Seal"),
        Command("site.health", "Show the health of all devices", panel(SitePage::healthPanel)).byMouse("Health"),
        Command("site.events", "Show events on site", panel(SitePage::logPanel)).byMouse("Events"),
        Command("site.try", "Try the design on the devices", [s] { s->tryNow(); })
            .on("Ctrl+Return")
            .unless(paired)
            .byMouse("Try it")
            .staying(),
        Command("site.keep", "Keep what runs through power-off", [s] { s->keep(); })
            .on("Ctrl+Shift+Return")
            .unless(paired)
            .byMouse("Keep through power-off")
            .staying(),
        Command("site.cycle", "Power-cycle the devices", [s] { s->powerCycle(); })
            .unless(paired)
            .byMouse("Power-cycle")
            .staying(),
        Command("site.live", "Go live, or leave live", [s] { s->setLive(!s->fleet().live()); })
            .on("Ctrl+L")
            .unless(paired)
            .byMouse("Go live")
            .staying(),
    };
}

// Found devices, and what is wrong on site with its cure.
void findIn(MainWindow& window, SitePage* page, std::vector<Findable>& all) {
    auto& fleet = page->fleet();
    for (const auto& f : fleet.found())
        all.push_back(
            {"found", q(f.modelName + " " + f.serial + " at " + f.address), "", [&window, page, serial = f.serial] {
                 window.showStage("site");
                 page->pairing()->chooseFound(serial);
             }});
    for (const auto& f : fleet.findings())
        all.push_back({"cure", q(f.reason + " " + f.remedy), "", [&window, &fleet, f] {
                           window.showStage("site");
                           fleet.cure(f);
                       }});
}

} // namespace

Stage site_stage(MainWindow& window) {
    auto* page = new SitePage(window.session());
    QObject::connect(page, &SitePage::stateChanged, &window, &MainWindow::refresh);
    QObject::connect(&page->fleet(), &Fleet::alarm, &window,
                     [&window](const std::string& text) { window.alarm(q(text)); });

    Stage stage;
    stage.empty = [page, &session = window.session()]() -> QString {
        const auto& p = session.project();
        const bool planned = std::any_of(p.devices.begin(), p.devices.end(), [](const auto& d) {
            const auto* m = d.spec();
            return m && m->onSite();
        });
        return planned || !page->fleet().found().empty()
                   ? ""
                   : "On site, planned devices are paired with the real ones. Nothing is planned that has a network. "
                     "Look what is there: looking changes nothing on a device.";
    };
    stage.firstSteps = {"site.look", "go.survey", "demo"};
    stage.id = "site";
    stage.name = "Site";
    stage.order = 9;
    stage.icon = [](QPainter& p, QPointF m) { // a pin on its ground
        p.drawEllipse(m + QPointF(0, px(-4)), px(7), px(7));
        p.drawLine(m + QPointF(0, px(3)), m + QPointF(0, px(11)));
        p.drawLine(m + QPointF(px(-6), px(11)), m + QPointF(px(6), px(11)));
    };
    stage.page = page;
    stage.focus = [page] { page->first()->setFocus(); };
    stage.find = [&window, page](std::vector<Findable>& all) { findIn(window, page, all); };
    stage.state = [page, &window]() -> std::optional<StateWord> {
        const QString word = page->stateWord();
        if (word.isEmpty())
            return {};
        return StateWord{word, window.session().bench().running() ? tokens().saffron
                               : page->anyUp()                    ? tokens().ok
                                                                  : tokens().ink3};
    };
    stage.commands = commandsOf(page);
    return stage;
}

} // namespace loom::app
