// What can be done on site, by key and by words.
#include "app/shell/finder.h"
#include "app/shell/main_window.h"
#include "app/shell/rail.h"
#include "app/site/differences_table.h"
#include "app/site/pairing_view.h"
#include "app/site/site_page.h"
#include "app/text.h"
#include <QApplication>
#include <QSystemTrayIcon>

namespace loom::app {

void MainWindow::addSiteCommands() {
    const auto onSite = [this](auto what) {
        return [this, what] {
            showStage(siteStage);
            what();
        };
    };
    addCommand("Look for devices", "F6", onSite([this] { site_->look(); }));
    addCommand("Pair by model and name", "", onSite([this] { site_->pairAll(); }));
    addCommand("Pair the rest by position", "", onSite([this] { site_->pairByPosition(); }));
    addCommand("Swap the two chosen devices on site", "", onSite([this] { site_->swapChosen(); }));
    addCommand("Unpair the chosen devices", "", onSite([this] { site_->unpairChosen(); }));
    addCommand("Put all found devices into the plan", "", onSite([this] { site_->addAllFound(); }));
    addCommand("Let the chosen device blink", "", onSite([this] { site_->identifyChosen(); }));
    addCommand("Let the chosen device sound a tone", "", onSite([this] { site_->identifyChosen(true); }));
    addCommand("Encrypt the sound between devices with a new key", "", onSite([this] { site_->encryptSound(); }));
    addCommand("Save the chosen board's image as Intel HEX\u2026", "", onSite([this] { site_->saveImage(); }));
    addCommand("Take all from the devices", "", onSite([this] { site_->takeFromDevice(); }));
    addCommand("Go back to the revision before", "", onSite([this] { site_->goBack(); }));
    const std::pair<const char*, int> panels[] = {
        {"Show what is wrong on site", SitePage::todoPanel},
        {"Show where devices differ", SitePage::differencesPanel},
        {"Show the chosen device's set-up and revisions", SitePage::devicePanel},
        {"Seal devices with a password, or open them", SitePage::sealPanel},
        {"Show the health of all devices", SitePage::healthPanel},
        {"Show events on site", SitePage::logPanel}};
    for (const auto& [text, panel] : panels)
        addCommand(text, "", onSite([this, p = panel] { site_->showPanel(p); }));
    addCommand("Try the design on the devices", "Ctrl+Return", [this] { site_->tryNow(); });
    addCommand("Keep what runs through power-off", "Ctrl+Shift+Return", [this] { site_->keep(); });
    addCommand("Power-cycle the devices", "", [this] { site_->powerCycle(); });
    addCommand("Go live, or leave live", "Ctrl+L", [this] { site_->setLive(!site_->fleet().live()); });
}

void MainWindow::alarm(const QString& text) {
    if (isActiveWindow())
        return; // the bar at the bottom says it
    QApplication::alert(this);
    if (!QSystemTrayIcon::isSystemTrayAvailable())
        return;
    auto* tray = findChild<QSystemTrayIcon*>();
    if (!tray)
        tray = new QSystemTrayIcon(windowIcon(), this);
    tray->show();
    tray->showMessage("Nimble Loom", text, QSystemTrayIcon::Warning);
}

// Found devices, and what is wrong on site with its cure.
void MainWindow::findOnSite(std::vector<Findable>& all) {
    for (const auto& f : site_->fleet().found())
        all.push_back({"found", q(f.modelName + " " + f.serial + " at " + f.address), "", [this, serial = f.serial] {
                           showStage(siteStage);
                           site_->pairing()->chooseFound(serial);
                       }});
    for (const auto& f : site_->fleet().findings())
        all.push_back({"cure", q(f.reason + " " + f.remedy), "", [this, f] {
                           showStage(siteStage);
                           site_->fleet().cure(f);
                       }});
}

} // namespace loom::app
