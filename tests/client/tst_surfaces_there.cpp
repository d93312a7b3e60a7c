// Touch surfaces from the design to devices: tried, kept, changed, taken back. Time is stepped.
#include "fake_network.h"
#ifndef Q_MOC_RUN
#include "client/fleet.h"
#include "surface/pack.h"
#endif
#include "test.h"
#include <QTemporaryDir>
#include <filesystem>

using namespace loom;
using namespace loom::test;

class TestSurfacesThere : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;
    class Paper : public client::PlainDesign {
      public:
        using PlainDesign::PlainDesign;
        void say(const std::string& text, bool) override { said.push_back(text); }
        std::vector<std::string> said;
    };

  private slots:
    void fromTheDesignAndBack() {
        auto demo = *test::load(LOOM_SOURCE_DIR "/demo/marram-point");
        auto net = std::make_shared<FakeNetwork>();
        auto& station = net->add("52E0", "slate-10", "10.0.0.30", folder_.path().toStdString());
        auto& slate = *demo.device("council-slate");
        slate.serial = "52E0", slate.address = "10.0.0.30";
        slate.known.identity = station.device->describe().identity;
        auto paper = std::make_shared<Paper>(demo, test::models());
        client::Fleet fleet(net, paper, client::Tickets());
        paper->changed = [&](const project::Change& c) { fleet.follow(c); };
        const auto member = [&] { return fleet.member("council-slate"); };
        fleet.look(*site::readSubnet("10.0.0.0/24"));
        fleet.follow({});
        QVERIFY(net->turns.runUntil([&] { return member() && member()->config; }, 20000));
        const auto row = [&]() -> const site::Row* {
            for (const auto& r : member()->rows)
                if (r.key == "surface/council-slate")
                    return &r;
            return nullptr;
        };
        QVERIFY(row() && row()->difference.what == "Touch surface \u00b7 Council slate" &&
                row()->difference.device == "\u2014" && row()->group == "Touch surfaces");
        QVERIFY(row()->difference.design.rfind("3 pages, ", 0) == 0);
        fleet.chooseAll({"council-slate"}, site::Take::design, false);
        fleet.tryNow({"council-slate"});
        QVERIFY2(net->turns.runUntil([&] { return station.device->surfaces().shows(); }, 20000),
                 paper->said.empty() ? "" : paper->said.back().c_str());
        net->turns.run(3000);
        QVERIFY(!row());
        for (const auto& name : project::picturesOf(*demo.surface("council-slate")))
            QVERIFY2(station.device->store().hasPicture(project::picturePrint(demo.assets.at(name))), name.c_str());
        QCOMPARE(paper->project().device("council-slate")->known.surfaces.size(), std::size_t(1));
        const auto written = [&] { // when each picture was: one that is sent again is written again
            std::map<std::string, std::filesystem::file_time_type> all;
            for (const auto& f : std::filesystem::recursive_directory_iterator(folder_.path().toStdString()))
                if (f.is_regular_file() && f.path().filename().string().size() == 16)
                    all[f.path().filename().string()] = f.last_write_time();
            return all;
        };
        const auto first = written();
        QCOMPARE(first.size(), project::picturesOf(*demo.surface("council-slate")).size());
        fleet.keep({"council-slate"});
        QVERIFY(net->turns.runUntil([&] { return station.device->store().kept() != nullptr; }, 20000));
        // A change of the design alone: only the surface differs.
        const auto changed = [](const std::string& name) {
            return project::Edit{"Rename", [name](project::Project p) -> Result<project::Project> {
                                     p.surface("council-slate")->pages.change(1).name = name;
                                     return p;
                                 }};
        };
        QVERIFY(paper->edit(changed("Now")));
        net->turns.run(2000);
        QVERIFY(row() && row()->difference.changed == project::Changed::here && row()->take == site::Take::design);
        fleet.tryNow({"council-slate"});
        QVERIFY(net->turns.runUntil([&] { return !row(); }, 20000));
        QVERIFY(station.device->running().surfaces.at("council-slate").find("\"Now\"") != std::string::npos);
        QVERIFY(written() == first); // its pictures were there already
        // Power off: what was not kept is gone; the design counts.
        station.cut();
        station.device->powerOff();
        QVERIFY(!station.device->surfaces().shows());
        station.device->powerOn();
        QVERIFY(station.device->surfaces().shows());
        QVERIFY(net->turns.runUntil([&] { return row() != nullptr; }, 60000));
        QVERIFY(row()->take == site::Take::design);
        // Somebody else's laptop changed it there: it is taken into the design, what is for editing alone stays.
        auto other = paper->project();
        other.surface("council-slate")->pages.change(1).name = "Theirs";
        auto config = station.device->running();
        config.surfaces["council-slate"] =
            project::packSurface(other, *other.surface("council-slate"), "council-slate");
        QVERIFY(bool(station.device->tryConfig(config, "another")));
        QVERIFY(net->turns.runUntil(
            [&] {
                return row() && row()->difference.device != "\u2014" && member()->config->surfaces == config.surfaces;
            },
            60000));
        fleet.takeFrom({"council-slate"});
        QCOMPARE(paper->project().surface("council-slate")->pages[1].name, std::string("Theirs"));
        net->turns.run(2000);
        QVERIFY(!row());
    }
};

LOOM_TEST(tst_surfaces_there, TestSurfacesThere)
#include "tst_surfaces_there.moc"
