#include "app/site/site_shots.h"
#include "app/shell/main_window.h"
#include "app/site/embedded_rig.h"
#include "app/site/pairing_view.h"
#include "app/site/site_page.h"
#include "project/catalogue.h"
#include "project/store.h"
#include <QTemporaryDir>

namespace loom::app {
namespace {

project::Project sixty() {
    project::Project p;
    p.name = "Sixty devices";
    p.buildings.emplace_back();
    p.buildings.change(0).id = "house", p.buildings.change(0).name = "House";
    const char* colours[] = {"madder", "teal", "moss", "plum", "saffron"};
    const char* models[] = {"canopy-8", "slate-10", "tap", "dial", "treadle-4", "shuttle-8"};
    for (int i = 0; i < 60; ++i) {
        const std::string room = "room-" + std::to_string(i / 6 + 1);
        if (i % 6 == 0) {
            project::Room r;
            r.outline = {{8.0 * (i / 6), 0}, {8.0 * (i / 6) + 7, 0}, {8.0 * (i / 6) + 7, 6}, {8.0 * (i / 6), 6}};
            r.id = room, r.name = "Room " + std::to_string(i / 6 + 1), r.colour = colours[i / 6 % 5];
            p.buildings.change(0).rooms.push_back(r);
        }
        project::Device d;
        d.model = models[i % 6], d.room = room, d.id = "d" + std::to_string(i);
        d.name = "Room " + std::to_string(i / 6 + 1) + " " + project::findModel(d.model)->use;
        d.address = "127.20.4." + std::to_string(20 + i);
        p.devices.push_back(d);
    }
    return p;
}

} // namespace

bool arrangeSite(MainWindow& window, const QString& stage, const std::function<void(int)>& runFor,
                 const std::function<void()>& picture) {
    if (stage != "site" && !stage.startsWith("site-"))
        return false;
    QTemporaryDir folder;
    auto& session = window.session();
    auto* page = window.site();
    auto& fleet = page->fleet();
    const std::string demo = project::dataFolder() + "/demo";
    const auto open = [&](const project::Project& p) {
        const auto file = folder.filePath("site.loom");
        if (const auto done = project::saveProject(p, file.toStdString()); !done)
            qWarning("%s", done.trouble().text().c_str());
        session.open(file);
    };
    window.showStage("site");
    std::unique_ptr<EmbeddedRig> rig;
    if (stage == "site-60") {
        const auto p = sixty();
        open(p);
        rig = std::make_unique<EmbeddedRig>(p, folder.path().toStdString());
        runFor(800);
        page->look();
        runFor(1500);
        fleet.pairAll({site::PairBy::address});
        runFor(4000);
        page->tryNow();
        runFor(2500);
        rig->with([](rig::Rig& r) {
            const auto serial = [&](std::size_t i) { return r.servers()[i]->device().made().serial; };
            (void)bool(r.setFault(serial(4), "output", {{"out 2", "open"}}));
            (void)bool(r.setFault(serial(9), "temperature", 78));
            (void)bool(r.setFault(serial(7), "setUp", {{"lampLive", "green"}}));
        });
        runFor(2500);
        page->showPanel(SitePage::healthPanel);
        runFor(500);
        picture();
        return true;
    }
    if (stage == "site-board") {
        auto demoProject = project::loadProject(demo + "/marram-point");
        if (!demoProject)
            return false;
        open(*demoProject);
        rig = std::make_unique<EmbeddedRig>(*demoProject, folder.path().toStdString());
        runFor(3000);
        page->look();
        runFor(2000);
        page->pairAll();
        runFor(3000);
        page->pairing()->choose({"spindle-cellar"});
        page->showPanel(SitePage::devicePanel);
        runFor(1500);
        picture();
        return true;
    }
    const auto plan = project::loadProject(demo + "/first-day");
    if (!plan)
        return false;
    open(*plan);
    rig = std::make_unique<EmbeddedRig>(demo + "/scenarios/first-day.json", folder.path().toStdString());
    runFor(2500);
    page->look();
    runFor(1500);
    const auto cureAll = [&](const char* code) {
        for (const auto& f : fleet.findings())
            if (f.code == code)
                fleet.cure(f);
    };
    if (stage == "site-todo") {
        fleet.pairAll({site::PairBy::name, site::PairBy::model});
        runFor(2500);
        page->showPanel(SitePage::todoPanel);
        runFor(500);
        picture();
        return true;
    }
    cureAll("same-address");
    cureAll("wrong-subnet");
    runFor(1500);
    page->pairAll();
    runFor(1500);
    fleet.swapPairs("council-canopy", "tern-canopy");
    runFor(3000);
    page->pairing()->choose({"heddle"});
    if (stage == "site") {
        page->showPanel(SitePage::differencesPanel);
    } else {
        fleet.chooseAll({"heddle"}, site::Take::design, true);
        page->pairing()->choose({});
        page->tryNow();
        runFor(2500);
        page->keep();
        runFor(2000);
        if (stage == "site-device") {
            page->pairing()->choose({"heddle"});
            page->showPanel(SitePage::devicePanel);
        } else if (stage == "site-seal") {
            fleet.seal(page->meant(), "tall grass by the sea");
            runFor(3000);
            page->showPanel(SitePage::sealPanel);
            page->encryptSound();
            runFor(1500);
        } else if (stage == "site-events") {
            page->showPanel(SitePage::logPanel);
        } else {
            rig->with([](rig::Rig& r) {
                (void)bool(r.setFault("01C77E", "output", {{"out 3", "open"}}));
                (void)bool(r.setFault("1177A0", "clock", true));
                (void)bool(r.setFault("0A11", "power", "off"));
            });
            runFor(3500);
            page->showPanel(SitePage::healthPanel);
        }
    }
    runFor(2000);
    picture();
    return true;
}

} // namespace loom::app
