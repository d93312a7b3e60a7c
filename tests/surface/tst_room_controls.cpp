// Controls that are driven from what is no parameter: outside devices, walls, mutes, devices that are there.
#include "models.h"
#include "rules/surface_paths.h"
#include "surface/make_page.h"
#include "surface/pack.h"
#include "surface/surface_edit.h"
#include "surface/use.h"
#include "test.h"

using namespace loom;
using namespace loom::project;

class TestRoomControls : public QObject {
    Q_OBJECT
    Project demo_;
    class Values : public SurfaceValues {
      public:
        explicit Values(const Project& p) : p_(p) {}
        std::optional<double> now(const Drive& d) override {
            const auto it = at.find(d.path);
            return it != at.end() ? it->second : controlValue(p_, d);
        }
        void set(const Drive& d, double v) override { at[d.path] = v; }
        bool give(const Drive& d) override {
            given.push_back(d.path);
            return true;
        }
        const Project& p_;
        std::map<std::string, double> at;
        std::vector<std::string> given;
    };
    // The council slate with one page of these, side by side.
    Project with(const std::vector<std::array<const char*, 3>>& controls) { // kind, path, shown
        auto p = demo_;
        Surface s;
        s.id = "wall", s.name = "Wall", s.device = "council-slate", s.width = 1000, s.height = 600;
        SurfacePage page;
        page.id = page.name = "one";
        Ply ply;
        ply.id = ply.name = "front";
        for (const auto& [kind, path, shown] : controls) {
            Control c;
            c.id = std::string(kind) + std::to_string(ply.controls.size());
            c.kind = kind, c.param = path, c.shown = shown;
            c.x = 100.0 * static_cast<double>(ply.controls.size()), c.width = 90, c.height = 60;
            ply.controls.push_back(c);
        }
        page.plies.push_back(ply);
        s.pages.push_back(page);
        p.surfaces.clear();
        p.surfaces.push_back(s);
        return p;
    }

  private slots:
    void initTestCase() { demo_ = *test::load(LOOM_SOURCE_DIR "/demo/marram-point"); }
    void whatTheyAre() {
        struct Case {
            const char *path, *device, *kind;
            Drive::Kind is;
            bool set;
        };
        const Case cases[] = {
            {"outside:hall-display/power", "heddle", "toggle", Drive::Kind::onOff, true},
            {"outside:hall-display/input", "heddle", "choice", Drive::Kind::choice, true},
            {"outside:hall-display/volume", "heddle", "fader", Drive::Kind::range, true},
            {"outside:hall-display/there", "heddle", "lamp", Drive::Kind::onOff, false},
            {"outside:hall-blinds/stop", "heddle", "press", Drive::Kind::cue, true},
            {"wall:fold", "heddle-8-rack-a", "lamp", Drive::Kind::onOff, false},
            {"mute:council", "heddle", "toggle", Drive::Kind::onOff, true},
            {"contact:heddle-8-rack-a/contact 1", "heddle-8-rack-a", "lamp", Drive::Kind::onOff, false},
            {"relay:heddle/relay 1", "heddle", "toggle", Drive::Kind::onOff, true},
            {"knob:foyer-dial/knob 1", "foyer-dial", "meter", Drive::Kind::reading, false},
            {"device:heddle", "heddle", "lamp", Drive::Kind::onOff, false},
        };
        for (const auto& c : cases) {
            const auto d = controlDrive(demo_, c.path);
            QVERIFY2(d, c.path);
            QVERIFY2(d->kind == c.is && isSet(*d) == c.set && isSignal(*d), c.path);
            QVERIFY2(d->device == c.device, (std::string(c.path) + " " + d->device).c_str());
            QVERIFY2(usualKind(*d).id == c.kind, (std::string(c.path) + " " + usualKind(*d).id).c_str());
            QVERIFY2(usualKind(*d).fits(*d), c.path);
            // What nobody sets is nothing to press.
            for (const auto& kind : controlKinds())
                if (kind.fits(*d) && !c.set)
                    QVERIFY2(kind.touch == Touch::none, (std::string(c.path) + " " + kind.id).c_str());
        }
        QCOMPARE(textOf(*controlDrive(demo_, "wall:fold"), {0, 1}, 1), std::string("open"));
        QVERIFY(!controlDrive(demo_, "outside:hall-display/nothing") && !controlDrive(demo_, "wall:none") &&
                !controlDrive(demo_, "button:tern-tap") && !controlDrive(demo_, "start"));
        const auto gain = controlDrive(demo_, "heddle/chair.preamp.gain"); // and all that was
        QVERIFY(gain && !isSignal(*gain) && gain->kind == Drive::Kind::range && isValue(*gain));
    }
    void theyAreFound() {
        const auto found = [&](const char* words, const char* path, const char* device = "") {
            for (const auto& d : findControlDrives(demo_, words, 100, device))
                if (d.path == path)
                    return true;
            return false;
        };
        QVERIFY(found("display power", "outside:hall-display/power"));
        QVERIFY(found("hall display \u00b7 volume", "outside:hall-display/volume"));
        QVERIFY(found("folding wall", "wall:fold") && found("relay 2 heddle", "relay:heddle/relay 2"));
        QVERIFY(found("power", "outside:hall-display/power", "heddle") &&
                !found("power", "outside:hall-display/power", "heddle-8-rack-a"));
        QVERIFY(found("chair gain", "heddle/chair.preamp.gain"));
        QVERIFY(!found("power", "knob:foyer-dial/knob 1"));
        QVERIFY(!found("knob", "knob:foyer-dial/knob 1")); // a knob on the wall has no line of values to surfaces
        QVERIFY(!isToldToSurfaces(demo_, *controlDrive(demo_, "knob:foyer-dial/knob 1")));
        QCOMPARE(findControlDrives(demo_, "", 7).size(), std::size_t(7));
    }
    void theyAreUsed() {
        const auto p = with({{"toggle", "outside:hall-display/power", ""},
                             {"choice", "outside:hall-display/input", ""},
                             {"lamp", "wall:fold", ""},
                             {"press", "outside:hall-blinds/stop", "outside:hall-display/power"}});
        Values v(p);
        SurfaceUse use(p, "wall", v);
        const auto& controls = use.page()->plies[0].controls;
        QVERIFY(!use.shown(controls[0]).on && use.shown(controls[0]).text == "off");
        QVERIFY(!use.seen(controls[3])); // while the display is off
        use.click(controls[0]);
        QCOMPARE(v.at.at("outside:hall-display/power"), 1.0);
        QVERIFY(use.shown(controls[0]).on && use.shown(controls[0]).text == "on" && use.seen(controls[3]));
        use.click(controls[3]);
        QCOMPARE(v.given, std::vector<std::string>{"outside:hall-blinds/stop"});
        v.at["wall:fold"] = 1;
        QVERIFY(use.shown(controls[2]).on && use.shown(controls[2]).text == "open");
        use.click(controls[2]);
        QCOMPARE(v.at.at("wall:fold"), 1.0); // nobody presses a lamp
        use.step(controls[1], 1);
        QCOMPARE(v.at.at("outside:hall-display/input"), 1.0);
        QCOMPARE(use.shown(controls[1]).chosen, 1);
    }
    void theyGoToWhoTells() {
        const auto p = with({{"toggle", "outside:hall-display/power", ""},
                             {"press", "outside:hall-blinds/stop", ""},
                             {"lamp", "wall:fold", ""},
                             {"lamp", "mute:council", ""},
                             {"text", "", "stream:none/mix"}});
        const auto& s = p.surfaces[0];
        QCOMPARE(showersOf(p, s), (std::set<std::string>{"council-slate", "heddle", "heddle-8-rack-a"}));
        QCOMPARE(surfacesOn(p, *p.device("heddle-8-rack-a")).size(), std::size_t(1));
        const auto packed = unpackSurface(packSurface(p, s, "heddle"), test::models());
        QVERIFY2(bool(packed), packed ? "" : packed.error().text().c_str());
        QCOMPARE(packed->tells.at("outside:hall-display/power"), std::string("heddle"));
        QCOMPARE(packed->tells.at("wall:fold"), std::string("heddle-8-rack-a"));
        // All is known there by the same name, range and unit.
        for (const char* path :
             {"outside:hall-display/power", "outside:hall-blinds/stop", "wall:fold", "mute:council"}) {
            const auto here = controlDrive(p, path), there = controlDrive(packed->project, path);
            QVERIFY2(there && there->label == here->label && there->spec.choices == here->spec.choices &&
                         there->kind == here->kind && there->settable == here->settable,
                     path);
        }
        const auto uses = pathsUsed(packed->project, packed->project.surfaces[0]);
        QVERIFY(uses.at("outside:hall-display/power").sets && uses.at("outside:hall-display/power").high == 1);
        QVERIFY(uses.at("outside:hall-blinds/stop").sets);
        QVERIFY(!uses.at("wall:fold").sets && !uses.at("mute:council").sets); // lamps set nothing
        QVERIFY(!unpackSurface(R"({"as": "x", "pictures": {}, "tells": 3, "project": {}})", test::models()));
        QVERIFY(!unpackSurface(R"({"as": "x", "pictures": {}, "tells": {"a": 3}, "project": {}})", test::models()));
    }
    void pagesThatMakeThemselvesHaveThem() {
        const auto source = pageSource(demo_, {"council"});
        QVERIFY2(bool(source), source ? "" : source.error().text().c_str());
        std::set<std::string> paths;
        for (const auto& s : source->strips)
            paths.insert(s.level + s.other);
        QVERIFY(paths.count("outside:hall-display/power") && paths.count("outside:hall-display/volume") &&
                paths.count("outside:hall-blinds/closed"));
        QVERIFY(!paths.count("outside:hall-display/there"));
        const auto elsewhere = *pageSource(demo_, {"tern"});
        for (const auto& s : elsewhere.strips)
            QVERIFY(s.other.find("outside:") == std::string::npos);
        // Onto a page, by path.
        auto p = with({});
        const auto put = putOnPage(p, {"wall", "one"}, {"outside:hall-display/power"}, 10, 10, "");
        QVERIFY2(bool(put), put ? "" : put.error().text().c_str());
        p = *put->make(p);
        const auto& c = p.surfaces[0].pages[0].plies.back().controls.back();
        const auto drive = *controlDrive(p, c.param);
        QVERIFY(c.kind == "toggle" && c.param == "outside:hall-display/power");
        QCOMPARE(labelOf(c, &drive), std::string("Hall display \u00b7 Power"));
    }
    void conditionsOfThem() {
        for (const char* text : {"wall:fold", "not outside:hall-display/power", "outside:hall-display/volume > 20",
                                 "contact:heddle/contact 3", "stream:heddle/mix 1"}) {
            const auto c = readCondition(text);
            QVERIFY2(c && *c, text);
        }
        QCOMPARE((*readCondition("not contact:heddle/contact 3"))->path, std::string("contact:heddle/contact 3"));
        for (const char* bad : {":fold", "wall:", "when a:b", "not"})
            QVERIFY2(!readCondition(bad), bad);
    }
};

LOOM_TEST(tst_room_controls, TestRoomControls)
#include "tst_room_controls.moc"
