// Touch surfaces from the design to devices: tried, kept, changed, taken back. Time is stepped.
#include "fake_network.h"
#ifndef Q_MOC_RUN
#include "client/fleet.h"
#include "disk/safe_file.h"
#include "dsp/audio_file.h"
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
    // What a player plays goes to the device before its program, once; another file of the same name goes again.
    void soundsOfProgramsGoThere() {
        QTemporaryDir folder;
        project::Project p;
        project::Device d;
        d.id = d.name = "box", d.model = "heddle-16", d.models = test::models(), d.serial = "B0A1",
        d.address = "10.0.0.31";
        d.program.emplace();
        engine::Block player;
        player.id = "gong", player.kind = "player", player.texts["file"] = "gong.wav";
        engine::Block out;
        out.id = "out", out.kind = "output", out.texts["port"] = "out 1";
        d.program->blocks = {player, out};
        d.program->connections.push_back({{"gong", 0}, {"out", 0}});
        const auto sound = [&](float level) { // 0.1 s of it, WAV
            dsp::AudioClip clip;
            clip.rate = 48000;
            clip.channels = {std::vector<float>(4800, level)};
            std::string error;
            const auto path = folder.path().toStdString() + "/sound.wav";
            if (!dsp::writeWav(path, clip, error))
                qFatal("%s", error.c_str());
            const auto text = project::readWhole(path, 1u << 20);
            return project::Asset(std::vector<char>(text->begin(), text->end()));
        };
        p.assets["gong.wav"] = sound(0.5f);
        p.devices.push_back(d);
        auto net = std::make_shared<FakeNetwork>();
        auto& station = net->add("B0A1", "heddle-16", "10.0.0.31", folder.path().toStdString());
        p.device("box")->known.identity = station.device->describe().identity;
        auto paper = std::make_shared<Paper>(p, test::models());
        client::Fleet fleet(net, paper, client::Tickets());
        paper->changed = [&](const project::Change& c) { fleet.follow(c); };
        fleet.look(*site::readSubnet("10.0.0.0/24"));
        fleet.follow({});
        const auto member = [&] { return fleet.member("box"); };
        QVERIFY(net->turns.runUntil([&] { return member() && member()->config; }, 20000));
        const auto tryIt = [&] {
            fleet.chooseAll({"box"}, site::Take::design, false);
            fleet.tryNow({"box"});
            QVERIFY2(net->turns.runUntil([&] { return member()->rows.empty() && member()->config->program; }, 20000),
                     paper->said.empty() ? "" : paper->said.back().c_str());
        };
        tryIt();
        const auto first = project::contentPrint({p.assets.at("gong.wav").data(), p.assets.at("gong.wav").size()});
        QVERIFY(station.device->store().hasPicture(first));
        QVERIFY(station.device->set("gong.play", 1, "a hand"));
        QTRY_VERIFY_WITH_TIMEOUT(station.device->meters().count("gong") &&
                                     std::abs(station.device->meters().at("gong") + 6.0) < 0.5,
                                 5000); // 0.5 of full scale
        // The design itself says nothing of prints.
        QCOMPARE(paper->project().device("box")->program->find("gong")->texts.size(), std::size_t(1));
        // Another sound of the same name differs, and goes there.
        const auto edit = project::Edit{"Another", [&](project::Project now) -> Result<project::Project> {
                                            now.assets["gong.wav"] = sound(0.25f);
                                            return now;
                                        }};
        paper->edit(edit);
        fleet.follow({});
        QVERIFY(net->turns.runUntil([&] { return !member()->rows.empty(); }, 20000));
        QCOMPARE(member()->rows.front().key, std::string("gong"));
        tryIt();
        QVERIFY(station.device->set("gong.play", 1, "a hand"));
        QTRY_VERIFY_WITH_TIMEOUT(
            station.device->meters().count("gong") && std::abs(station.device->meters().at("gong") + 12.0) < 0.5, 5000);
        QVERIFY(station.device->store().hasPicture(first)); // until it keeps what needs it no more
        QVERIFY(station.device->keep());
        QVERIFY(!station.device->store().hasPicture(first));
        station.device->powerOff();
        station.device->powerOn();
        QVERIFY(station.device->set("gong.play", 1, "a hand"));
        QTRY_VERIFY_WITH_TIMEOUT(
            station.device->meters().count("gong") && std::abs(station.device->meters().at("gong") + 12.0) < 0.5, 5000);
        // One that was not sent is said.
        auto config = station.device->running();
        config.program->find("gong")->texts["print"] = "0123456789abcdef";
        const auto lacks = station.device->tryConfig(config, "a test");
        QVERIFY(!lacks && lacks.error().message.find("gong.wav was not sent") != std::string::npos);
    }
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
        QVERIFY(row()->difference.design.rfind("4 pages, ", 0) == 0);
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
