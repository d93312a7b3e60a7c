// The views of Site, each with the rig that shows them.
#include "app/site/embedded_rig.h"
#include "app/site/pairing_view.h"
#include "app/site/site_page.h"
#include "catalogue/catalogue.h"
#include "file/store.h"
#include "models.h"
#include "pictures/picture.h"

namespace loom::pictures {
namespace {

using namespace app;

template <class... What> EmbeddedRig& rig(Scene& s, What&&... what) {
    auto one =
        std::make_shared<EmbeddedRig>(s.session().models(), std::forward<What>(what)..., s.folder.path().toStdString());
    s.kept.push_back(one);
    return *one;
}

project::Project sixty() {
    project::Project p;
    p.name = "Sixty devices";
    p.buildings.emplace_back();
    p.buildings.change(0).id = "house";
    p.buildings.change(0).name = "House";
    const char* colours[] = {"madder", "teal", "moss", "plum", "saffron"};
    const char* models[] = {"canopy-8", "slate-10", "tap", "dial", "treadle-4", "shuttle-8"};
    for (int i = 0; i < 60; ++i) {
        const std::string room = "room-" + std::to_string(i / 6 + 1);
        if (i % 6 == 0) {
            project::Room r;
            r.outline = {{8.0 * (i / 6), 0}, {8.0 * (i / 6) + 7, 0}, {8.0 * (i / 6) + 7, 6}, {8.0 * (i / 6), 6}};
            r.id = room;
            r.name = "Room " + std::to_string(i / 6 + 1);
            r.colour = colours[i / 6 % 5];
            p.buildings.change(0).rooms.push_back(r);
        }
        project::Device d;
        d.models = test::models();
        d.model = models[i % 6];
        d.room = room;
        d.id = "d" + std::to_string(i);
        d.name = "Room " + std::to_string(i / 6 + 1) + " " + d.spec()->use;
        d.address = "127.20.4." + std::to_string(20 + i);
        p.devices.push_back(d);
    }
    return p;
}

// Sixty devices, three of them with something wrong.
bool healthOfSixty(Scene& s) {
    const auto p = sixty();
    if (!s.open(p))
        return false;
    s.window.showStage("site");
    auto& on = rig(s, p);
    auto* page = s.view<SitePage>();
    s.runFor(800);
    page->look();
    s.runFor(1500);
    page->fleet().pairAll({site::PairBy::address});
    s.runFor(4000);
    page->tryNow();
    s.runFor(2500);
    on.with([](rig::Rig& r) {
        const auto serial = [&](std::size_t i) { return r.servers()[i]->device().made().serial; };
        (void)bool(r.setFault(serial(4), "output", {{"out 2", "open"}}));
        (void)bool(r.setFault(serial(9), "temperature", 78));
        (void)bool(r.setFault(serial(7), "setUp", {{"lampLive", "green"}}));
    });
    s.runFor(2500);
    page->showPanel(SitePage::healthPanel);
    s.runFor(500);
    return true;
}

bool board(Scene& s) {
    s.window.showStage("site");
    rig(s, s.session().project());
    auto* page = s.view<SitePage>();
    s.runFor(3000);
    page->look();
    s.runFor(2000);
    page->pairAll();
    s.runFor(3000);
    page->pairing()->choose({"spindle-cellar"});
    page->showPanel(SitePage::devicePanel);
    s.runFor(1500);
    return true;
}

// The first day on site: what the scenario has wrong, as it is found.
EmbeddedRig* found(Scene& s) {
    const std::string demo = project::dataFolder() + "/demo";
    const auto plan = test::load(demo + "/first-day");
    if (!plan || !s.open(*plan))
        return nullptr;
    s.window.showStage("site");
    auto& on = rig(s, demo + "/scenarios/first-day.json");
    s.runFor(2500);
    s.view<SitePage>()->look();
    s.runFor(1500);
    return &on;
}

bool todo(Scene& s) {
    if (!found(s))
        return false;
    s.view<SitePage>()->fleet().pairAll({site::PairBy::name, site::PairBy::model});
    s.runFor(2500);
    s.view<SitePage>()->showPanel(SitePage::todoPanel);
    s.runFor(2500);
    return true;
}

// Cured and paired.
EmbeddedRig* paired(Scene& s) {
    auto* on = found(s);
    if (!on)
        return nullptr;
    auto* page = s.view<SitePage>();
    auto& fleet = page->fleet();
    for (const char* code : {"address-shared", "wrong-subnet"})
        for (const auto& f : fleet.findings())
            if (f.id() == code)
                fleet.cure(f);
    s.runFor(1500);
    page->pairAll();
    s.runFor(1500);
    fleet.swapPairs("council-canopy", "tern-canopy");
    s.runFor(3000);
    return on;
}

bool differences(Scene& s) {
    if (!paired(s))
        return false;
    s.view<SitePage>()->pairing()->choose({"heddle"});
    s.view<SitePage>()->showPanel(SitePage::differencesPanel);
    s.runFor(2000);
    return true;
}

// Settled, tried and kept; then what `last` does.
Arrange kept(std::function<void(Scene&, SitePage*, EmbeddedRig&)> last) {
    return [last](Scene& s) {
        auto* on = paired(s);
        if (!on)
            return false;
        auto* page = s.view<SitePage>();
        page->pairing()->choose({"heddle"});
        page->fleet().chooseAll({"heddle"}, site::Take::design, true);
        page->pairing()->choose({});
        page->tryNow();
        s.runFor(2500);
        page->keep();
        s.runFor(2000);
        last(s, page, *on);
        s.runFor(2000);
        return true;
    };
}

} // namespace

std::map<QString, Arrange> siteViews() {
    return {{"site", differences},
            {"site-todo", todo},
            {"site-60", healthOfSixty},
            {"site-board", board},
            {"site-device", kept([](Scene&, SitePage* page, EmbeddedRig&) {
                 page->pairing()->choose({"heddle"});
                 page->showPanel(SitePage::devicePanel);
             })},
            {"site-seal", kept([](Scene& s, SitePage* page, EmbeddedRig&) {
                 page->fleet().seal(page->meant(), "tall grass by the sea");
                 s.runFor(3000);
                 page->showPanel(SitePage::sealPanel);
                 page->encryptSound();
                 s.runFor(1500);
             })},
            {"site-events", kept([](Scene&, SitePage* page, EmbeddedRig&) { page->showPanel(SitePage::logPanel); })},
            {"site-health", kept([](Scene& s, SitePage* page, EmbeddedRig& on) {
                 on.with([](rig::Rig& r) {
                     (void)bool(r.setFault("01C77E", "output", {{"out 3", "open"}}));
                     (void)bool(r.setFault("1177A0", "clock", true));
                     (void)bool(r.setFault("0A11", "power", "off"));
                 });
                 s.runFor(3500);
                 page->showPanel(SitePage::healthPanel);
             })}};
}

} // namespace loom::pictures
