// Touch surfaces without a window: what drives controls, colours, edits, order, pages that make themselves, and
// fingers.
#ifndef Q_MOC_RUN
#include "file/project_json.h"
#include "model/describe.h"
#include "model/history.h"
#include "surface/arrange.h"
#include "surface/make_page.h"
#include "surface/repoint.h"
#include "surface/use.h"
#endif
#include "models.h"
#include "test.h"
#include <cmath>

using namespace loom;
using namespace loom::project;

namespace {

// Values that stand in a map; what is not there is not known.
class Told : public SurfaceValues {
  public:
    std::map<std::string, double> values{};
    int sets = 0;
    std::optional<double> now(const Drive& d) override {
        const auto it = values.find(d.path);
        return it == values.end() ? std::nullopt : std::optional(it->second);
    }
    void set(const Drive& d, double v) override {
        values[d.path] = v;
        ++sets;
    }
};

} // namespace

class TestSurface : public QObject {
    Q_OBJECT
    Project demo_;
    std::string gain_, muted_, choice_; // paths of the demo: a range in dB, a switch, a choice
    PagePlace place_{"wall", "page-1"};

    Project with(const Result<Edit>& edit, const Project& p) const {
        if (!edit)
            qFatal("%s", edit.error().text().c_str());
        auto then = edit->make(p);
        if (!then)
            qFatal("%s", then.error().text().c_str());
        return *then;
    }
    bool refused(const Result<Edit>& edit, const Project& p) const { return !edit || !edit->make(p); }
    // A surface with a fader, a toggle and a choice.
    Project wall() const {
        auto p = with(addSurface(demo_, "Wall", "", 1000, 600), demo_);
        p = with(Result<Edit>(addControls(place_, {{"fader", gain_, "", "", 100, 50, 80, 200},
                                                   {"toggle", muted_, "", "", 300, 60, 150, 70},
                                                   {"choice", choice_, "", "", 500, 70, 400, 60}})),
                 p);
        return p;
    }
    const SurfacePage& page(const Project& p) const { return *p.surface("wall")->page("page-1"); }
    std::string id(const Project& p, std::size_t i) const { return page(p).plies[0].controls[i].id; }
    const Control& control(const Project& p, std::size_t i) const { return page(p).plies[0].controls[i]; }

  private slots:
    void initTestCase() {
        demo_ = *test::load(LOOM_SOURCE_DIR "/demo/marram-point");
        demo_.surfaces = {};
        for (const auto& d : findDrives(demo_, "", 100000)) {
            if (gain_.empty() && d.kind == Drive::Kind::range && d.spec.unit == engine::Unit::decibel &&
                d.param == "gain" && d.spec.min <= -60 && d.spec.max >= 0)
                gain_ = d.path;
            if (muted_.empty() && d.kind == Drive::Kind::onOff && d.param == "muted")
                muted_ = d.path;
            if (choice_.empty() && d.kind == Drive::Kind::choice)
                choice_ = d.path;
        }
        QVERIFY(!gain_.empty() && !muted_.empty() && !choice_.empty());
    }
    void whatDrives() {
        const auto gain = *driveOf(demo_, gain_);
        QCOMPARE(gain.path, gain_);
        const auto range = rangeOf(gain, {});
        QCOMPARE(positionOf(gain, range, gain.spec.min), 0.0);
        QCOMPARE(positionOf(gain, range, gain.spec.max), 1.0);
        QVERIFY(std::abs(valueAt(gain, range, positionOf(gain, range, -6)) + 6) < gain.spec.step);
        Control c;
        c.low = -40, c.high = 0, c.digits = 0;
        const auto narrow = rangeOf(gain, c);
        QCOMPARE(positionOf(gain, narrow, -20), 0.5);
        QCOMPARE(valueAt(gain, narrow, 0.5), -20.0);
        QCOMPARE(valueAt(gain, narrow, 0.503), -20.0); // whole decibels
        QCOMPARE(textOf(gain, narrow, -20), std::string("\u221220 dB"));
        QCOMPARE(textOf(gain, narrow, -0.3), std::string("0 dB"));
        c.low = 900, c.high = 1000; // outside: the parameter's own
        QCOMPARE(rangeOf(gain, c).low, gain.spec.min);
        // By its logarithm: the middle of 20 Hz to 20 kHz is 632 Hz.
        Drive corner = gain;
        corner.spec = engine::frequencyParam("corner", "Corner", 1000);
        const auto hz = rangeOf(corner, {});
        QVERIFY(std::abs(valueAt(corner, hz, 0.5) - std::sqrt(20.0 * 20000)) < 2);
        QVERIFY(std::abs(positionOf(corner, hz, 200) - 1.0 / 3) < 1e-9);
        const auto level = driveOf(demo_, gain_.substr(0, gain_.rfind('.')) + "@level");
        QVERIFY(level && level->kind == Drive::Kind::reading && level->readout == -1);
        QVERIFY(!driveOf(demo_, "heddle/nobody.gain") && !driveOf(demo_, "heddle") && !driveOf(demo_, "") &&
                !driveOf(demo_, "heddle/@level") && !driveOf(demo_, "@/") && !driveOf(demo_, "heddle/chair@nothing"));
        QVERIFY(designValue(demo_, gain) && !designValue(demo_, *level));
        // Words in any order; those of rows come last.
        const auto found = findDrives(demo_, "GAIN chair", 50, "heddle");
        QVERIFY(!found.empty());
        for (const auto& d : found)
            QVERIFY(d.device == "heddle" && d.path.find("chair") != std::string::npos);
        QVERIFY(!findDrives(demo_, "far-end level gain", 9).empty() &&
                !findDrives(demo_, "Far end level gain", 9).empty());
        QVERIFY(findDrives(demo_, "", 7).size() == 7 && findDrives(demo_, "quite nothing", 9).empty());
    }
    void colours() {
        // CSS Color 4 gives oklch(0.627955 0.257683 29.2339) for red, B. Ottosson's tables the same.
        const auto red = oklchOf({255, 0, 0, 255});
        QVERIFY(std::abs(red[0] - 0.627955) < 1e-4 && std::abs(red[1] - 0.257683) < 1e-4 &&
                std::abs(red[2] - 29.2339) < 1e-2);
        const auto blue = oklchOf({0, 0, 255, 255});
        QVERIFY(std::abs(blue[0] - 0.452014) < 1e-4 && std::abs(blue[1] - 0.313214) < 1e-4 &&
                std::abs(blue[2] - 264.052) < 2e-2);
        for (const Colour& c : {Colour{42, 127, 122}, Colour{0, 0, 0}, Colour{255, 255, 255}, Colour{219, 154, 44}}) {
            const auto lch = oklchOf(c);
            QCOMPARE(fromOklch(lch[0], lch[1], lch[2]).text(), c.text());
            QCOMPARE(readColour(c.text())->text(), c.text());
        }
        QVERIFY(fromOklch(0.7, 0.4, 150).g > 150); // out of reach: less chroma, the same hue
        QVERIFY(std::abs(oklchOf(fromOklch(0.7, 0.4, 150))[2] - 150) < 2);
        QCOMPARE(readColour("rgb(42, 127, 122)")->text(), std::string("#2A7F7A"));
        QCOMPARE(readColour(" #ABC ")->text(), std::string("#AABBCC"));
        QCOMPARE(readColour("rgba(1,2,3,0.5)")->a, 128);
        QCOMPARE(readColour("none")->a, 0);
        QCOMPARE(readColour("L 35 C 0.03 H 230")->text(), fromOklch(0.35, 0.03, 230).text());
        for (const char* bad :
             {"", "blue-ish", "#12345", "#GGGGGG", "rgb(300,0,0)", "rgb(1,2)", "oklch(2000 0 0)", "l"})
            QVERIFY2(!readColour(bad), bad);
        // WCAG 2.1: black on white is 21, #767676 on white 4.54.
        QVERIFY(std::abs(contrast({0, 0, 0, 255}, {255, 255, 255, 255}) - 21) < 1e-9);
        QVERIFY(std::abs(contrast({0x76, 0x76, 0x76, 255}, {255, 255, 255, 255}) - 4.54) < 0.005);
        QCOMPARE(over({255, 255, 255, 128}, {0, 0, 0, 255}).r, 128);
        // Inherited: one change of the surface restyles all that says nothing itself.
        auto p = wall();
        const auto before = paintOf(*p.surface("wall"), page(p), control(p, 0));
        p.surface("wall")->look.accent = "#2A7F7A";
        p.surface("wall")->look.corner = 3;
        const auto after = paintOf(*p.surface("wall"), page(p), control(p, 0));
        QVERIFY(before.accent.text() == surfaceAccent && after.accent.text() == "#2A7F7A" && after.corner == 3);
        p.surface("wall")->pages.change(0).look.accent = "#A63D40";
        QCOMPARE(paintOf(*p.surface("wall"), page(p), control(p, 0)).accent.text(), std::string("#A63D40"));
        p.surface("wall")->pages.change(0).plies.change(0).controls.change(0).look.accent = "#FFFFFF";
        const auto own = paintOf(*p.surface("wall"), page(p), control(p, 0));
        QVERIFY(own.accent.text() == "#FFFFFF" && own.onAccent.r < 40); // dark on light
    }
    void everyKindIsDrawn() {
        auto p = wall();
        const auto* s = p.surface("wall");
        std::set<std::string> ids;
        for (const auto& k : controlKinds()) {
            QVERIFY2(ids.insert(k.id).second && !k.label.empty() && !k.purpose.empty() && k.sketch, k.id.c_str());
            for (const auto& [w, h] : {std::pair(k.width, k.height), {8.0, 8.0}, {600.0, 40.0}, {40.0, 600.0}}) {
                Control c;
                c.kind = k.id, c.width = w, c.height = h, c.text = "Name";
                const auto drive = k.drives.empty()                     ? ""
                                   : k.drives[0] == Drive::Kind::onOff  ? muted_
                                   : k.drives[0] == Drive::Kind::choice ? choice_
                                                                        : gain_;
                c.param = drive;
                const auto sketch = sketchOf(p, *s, page(p), c);
                QVERIFY2(!sketch.marks.empty(), k.id.c_str());
                for (const auto& m : sketch.marks)
                    for (const double t : {0.0, 0.5, 1.0}) {
                        QVERIFY(std::isfinite(m.x(t)) && std::isfinite(m.y(t)) && m.width(t) > -1e-9 &&
                                m.height(t) > -1e-9);
                        if (w == k.width)
                            QVERIFY2(m.x(t) > -1 && m.y(t) > -1 && m.x(t) + m.width(t) < w + 1 &&
                                         m.y(t) + m.height(t) < h + 1,
                                     k.id.c_str());
                    }
            }
        }
        Control later;
        later.kind = "hologram";
        QCOMPARE(sketchOf(p, *s, page(p), later).marks.size(), 2u);
        // A fader's thumb stands where its value is, and the finger there means that value.
        const auto fader = sketchOf(p, *s, page(p), control(p, 0));
        for (const double t : {0.0, 0.25, 1.0}) {
            const auto& thumb = fader.marks[3];
            QVERIFY(std::abs(fader.track.at(40, thumb.y(t) + thumb.height(t) / 2) - t) < 1e-6);
        }
    }
    void savedAndOpened() {
        auto p = wall();
        p.surface("wall")->pages.change(0).plies.change(0).controls.change(0).low = -30;
        p.surface("wall")->pages.change(0).guidesAcross = {100, 200.5};
        auto j = toJson(p);
        j["surfaces"][0]["pages"][0]["plies"][0]["controls"][0]["later"] = {1, 2};
        const auto back = fromJson<Project>(j);
        QVERIFY2(bool(back), back ? "" : back.error().text().c_str());
        QCOMPARE(back->surfaces[0].pages[0].plies[0].controls[0].low, std::optional(-30.0));
        QCOMPARE(toJson(*back)["surfaces"], j["surfaces"]);
        const auto bad = [&](const char* at, nlohmann::json v) {
            auto broken = j;
            broken[nlohmann::json::json_pointer(at)] = std::move(v);
            return !fromJson<Project>(broken);
        };
        const std::string first = "/surfaces/0/pages/0/plies/0/controls/0";
        for (const auto& [at, v] : std::vector<std::pair<std::string, nlohmann::json>>{
                 {"/surfaces/0/width", 3},
                 {"/surfaces/0/width", 100000},
                 {"/surfaces/0/look", {{"fill", "blue"}}},
                 {"/surfaces/0/pages/0/plies/0/controls/1/id", id(p, 0)},
                 {first + "/width", 0},
                 {first + "/text", std::string(10000, 'x')},
                 {first + "/high", -60},
                 {first + "/kind", nullptr},
                 {"/surfaces/0/pages", 3}})
            QVERIFY2(bad(at.c_str(), v), at.c_str());
        QVERIFY(!bad("/surfaces/0/pages/0/plies/0/closed", true));
        // Of surfaces alone nothing sounds.
        QVERIFY(changeBetween(demo_, p).kind == Change::Kind::surface);
        auto both = p;
        both.device("heddle")->name = "Other";
        QVERIFY(changeBetween(demo_, both).kind == Change::Kind::project);
    }
    void editsOfSurfacesAndPages() {
        auto p = with(addSurface(demo_, "", "council-slate"), demo_);
        QVERIFY(p.surfaces[0].width == 1280 && p.surfaces[0].millimetres == 217 &&
                p.surfaces[0].name == p.device("council-slate")->name);
        QVERIFY(refused(addSurface(p, "", "council-slate"), p) && refused(addSurface(p, "", "heddle"), p) &&
                refused(addSurface(p, "X", "", 10, 10), p));
        p = wall();
        QVERIFY(surfaceSaid(p, "Wall") && !surfaceSaid(p, "wal") && pageSaid(*p.surface("wall"), "Page 1"));
        p = with(addPage(p, "wall", "Sound"), p);
        p = with(copyPage(p, "wall", "page-1"), p);
        QCOMPARE(p.surface("wall")->pages.size(), 3u);
        QCOMPARE(p.surface("wall")->pages[1].name, std::string("Page 1 copy"));
        QCOMPARE(p.surface("wall")->pages[1].plies[0].controls.size(), 3u);
        p = with(movePage(p, "wall", "sound", -1), p);
        QCOMPARE(p.surface("wall")->pages[1].id, std::string("sound"));
        QVERIFY(refused(movePage(p, "wall", "page-1", -1), p) && refused(movePage(p, "wall", "nothing", 1), p));
        p = with(Result<Edit>(setSurfaceField("wall", "start", "sound")), p);
        QVERIFY(!setSurfaceField("wall", "start", "nothing").make(p) && !setSurfaceField("wall", "width", "3").make(p));
        p = with(removePage(p, "wall", "sound"), p);
        QVERIFY(p.surface("wall")->start.empty());
        p = with(removePage(p, "wall", "page-1-copy"), p);
        QVERIFY(refused(removePage(p, "wall", "page-1"), p));
        p = with(Result<Edit>(addPly(place_, "Drawer")), p);
        QCOMPARE(page(p).plies.back().id, std::string("drawer"));
        p = with(Result<Edit>(setPlyField(place_, "drawer", "closed", "yes")), p);
        QVERIFY(page(p).plies.back().closed);
        p = with(Result<Edit>(movePly(place_, "drawer", -1)), p);
        QCOMPARE(page(p).plies.front().id, std::string("drawer"));
        QVERIFY(!movePly(place_, "drawer", -1).make(p));
        p = with(Result<Edit>(removePly(place_, "drawer")), p);
        QVERIFY(!removePly(place_, page(p).plies[0].id).make(p));
        QVERIFY(with(removeSurface(p, "wall"), p).surfaces.empty() && refused(removeSurface(p, "floor"), p));
    }
    void editsOfControls() {
        const auto p = wall();
        const std::vector<std::string> two{id(p, 0), id(p, 1)};
        auto q = with(Result<Edit>(moveControls(place_, two, 5, -3, false)), p);
        QVERIFY(control(q, 0).x == 105 && control(q, 1).y == 57 && control(q, 2).x == 500);
        q = with(Result<Edit>(setControlField(place_, two, "corner", "4")), p);
        QVERIFY(control(q, 0).look.corner == 4 && control(q, 1).look.corner == 4 && control(q, 2).look.corner == -1);
        q = with(Result<Edit>(setControlField(place_, two, "fill", "rgb(42,127,122)")), p);
        QCOMPARE(control(q, 1).look.fill, std::string("#2A7F7A"));
        QVERIFY(!setControlField(place_, two, "fill", "blue-ish").make(p) &&
                !setControlField(place_, two, "width", "0").make(p) &&
                !setControlField(place_, {"nobody"}, "width", "5").make(p));
        const auto fields = controlFields(*p.surface("wall"), page(p), two);
        const auto field = [&](const char* what) {
            return std::find_if(fields.begin(), fields.end(), [&](const auto& f) { return f.id == what; });
        };
        QVERIFY(field("x")->mixed && !field("corner")->mixed && field("corner") != fields.end());
        // Locked ones stay; the others go on.
        q = with(Result<Edit>(setControlField(place_, {id(p, 0)}, "locked", "yes")), p);
        const auto moved = with(Result<Edit>(moveControls(place_, two, 5, 5, false)), q);
        QVERIFY(control(moved, 0).x == 100 && control(moved, 1).x == 305);
        QVERIFY(!moveControls(place_, {id(p, 0)}, 5, 5, false).make(q) && !removeControls(place_, two).make(q) &&
                !resizeControl(place_, id(p, 0), 0, 0, 50, 50, false).make(q));
        q = with(Result<Edit>(removeControls(place_, two)), p);
        QCOMPARE(page(q).plies[0].controls.size(), 1u);
        q = with(Result<Edit>(copyControls(place_, two, 16, 16)), p);
        QVERIFY(page(q).plies[0].controls.size() == 5 && control(q, 3).x == 116 &&
                control(q, 3).id != control(q, 0).id);
        q = with(Result<Edit>(orderControls(place_, {id(p, 0)}, 1)), p);
        QVERIFY(control(q, 1).id == id(p, 0) && control(q, 0).id == id(p, 1));
        QVERIFY(!orderControls(place_, {id(p, 2)}, 1).make(p) && !orderControls(place_, {id(p, 0)}, -1).make(p));
        q = with(Result<Edit>(orderControls(place_, two, 1)), p); // two together keep their own order
        QVERIFY(control(q, 0).id == id(p, 2) && control(q, 1).id == id(p, 0) && control(q, 2).id == id(p, 1));
        q = with(Result<Edit>(groupControls(place_, two, true)), p);
        QVERIFY(!control(q, 0).group.empty() && control(q, 0).group == control(q, 1).group &&
                control(q, 2).group.empty());
        QVERIFY(!groupControls(place_, {id(p, 0)}, true).make(p));
        QVERIFY(control(with(Result<Edit>(groupControls(place_, two, false)), q), 0).group.empty());
        // Another kind, another drive.
        q = with(showAs(p, place_, {id(p, 0)}, "knob"), p);
        QCOMPARE(control(q, 0).kind, std::string("knob"));
        QVERIFY(refused(showAs(p, place_, {id(p, 0)}, "toggle"), p) && refused(showAs(p, place_, two, "spoon"), p));
        q = with(driveFrom(p, place_, {id(p, 0)}, muted_), p);
        QVERIFY(control(q, 0).kind == "toggle" && control(q, 0).param == muted_);
        QVERIFY(refused(driveFrom(p, place_, two, "heddle/none.gain"), p));
        QVERIFY(!addControls(place_, {{"toggle", gain_}}).make(p) && !addControls(place_, {{"spoon"}}).make(p) &&
                !addControls({"wall", "none"}, {{"text"}}).make(p));
        auto lockedPly = with(Result<Edit>(setPlyField(place_, page(p).plies[0].id, "locked", "yes")), p);
        QVERIFY(!addControls(place_, {{"text"}}).make(lockedPly));
        q = with(Result<Edit>(addPly(place_, "Front")), p);
        q = with(Result<Edit>(controlsToPly(place_, two, "front")), q);
        QVERIFY(page(q).plies[1].controls.size() == 2 && page(q).plies[0].controls.size() == 1);
        QVERIFY(!controlsToPly(place_, two, "nowhere").make(p));
        auto styled = with(Result<Edit>(setControlField(place_, {id(p, 0)}, "accent", "#123456")), p);
        styled = with(Result<Edit>(copyLook(place_, id(p, 0), {id(p, 1), id(p, 2)})), styled);
        QVERIFY(control(styled, 2).look.accent == "#123456");
        // One drag is one step.
        auto live = p;
        History history(live);
        QVERIFY(bool(history.run(moveControls(place_, two, 1, 0, true))) &&
                bool(history.run(moveControls(place_, two, 1, 0, true))));
        QCOMPARE(control(live, 0).x, 102.0);
        (void)history.undo();
        QCOMPARE(control(live, 0).x, 100.0);
    }
    void inOrder() {
        const auto p = wall();
        const std::vector<std::string> all{id(p, 1), id(p, 0), id(p, 2)}; // the toggle leads: 300, 60, 150 x 70
        const auto done = [&](Arrange how) { return with(arrange(p, place_, all, how), p); };
        auto q = done(Arrange::left);
        QVERIFY(control(q, 0).x == 300 && control(q, 2).x == 300 && control(q, 1).x == 300);
        q = done(Arrange::right);
        QVERIFY(control(q, 0).x == 370 && control(q, 2).x == 50);
        q = done(Arrange::top);
        QVERIFY(control(q, 0).y == 60 && control(q, 2).y == 60);
        q = done(Arrange::bottom);
        QVERIFY(control(q, 0).y == -70 && control(q, 2).y == 70);
        q = done(Arrange::centreAcross);
        QCOMPARE(control(q, 0).x, 335.0);
        q = done(Arrange::centreDown);
        QCOMPARE(control(q, 0).y, -5.0);
        q = done(Arrange::sameSize);
        QVERIFY(control(q, 0).width == 150 && control(q, 2).height == 70);
        q = done(Arrange::sameWidth);
        QVERIFY(control(q, 0).width == 150 && control(q, 0).height == 200);
        q = done(Arrange::gapAcross); // 100..180, ?, 500..900 with 150 between: gaps of 85
        QVERIFY(control(q, 0).x == 100 && control(q, 1).x == 265 && control(q, 2).x == 500);
        q = done(Arrange::stackDown);
        QVERIFY(control(q, 0).y == 142 && control(q, 2).y == 354 && control(q, 0).x == 300);
        q = done(Arrange::stackAcross);
        QVERIFY(control(q, 0).x == 462 && control(q, 2).x == 554 && control(q, 2).y == 60);
        QVERIFY(refused(arrange(p, place_, {all[0], all[1]}, Arrange::gapDown), p) &&
                refused(arrange(p, place_, {all[0]}, Arrange::left), p) &&
                refused(arrange(p, place_, {all[0], "none"}, Arrange::left), p));
        // Drawn to edges of others, to the page and to guides; nothing beyond its reach.
        auto guided = p;
        guided.surface("wall")->pages.change(0).guidesAcross = {707};
        const auto& s = *guided.surface("wall");
        auto snap = snapTo(s, page(guided), {id(p, 0)}, 298, 300, 80, 200, 6);
        QVERIFY(snap.dx == 2 && snap.across == std::optional(300.0));
        snap = snapTo(s, page(guided), {id(p, 0)}, 705, 399, 80, 200, 6);
        QVERIFY(snap.dx == 2 && snap.across == std::optional(707.0));
        QVERIFY(snap.dy == 1 && snap.down == std::optional(600.0)); // its lower edge at the page's
        snap = snapTo(s, page(guided), {id(p, 0)}, 350, 350, 80, 20, 3);
        QVERIFY(!snap.across || std::abs(snap.dx) <= 3);
        snap = snapTo(s, page(guided), {id(p, 0), id(p, 1), id(p, 2)}, 333, 333, 10, 10, 4);
        QVERIFY(snap.dx == 0 && !snap.across && !snap.down);
    }
    void pagesMakeThemselves() {
        const auto strips = pageSource(demo_, {"council"})->strips;
        QVERIFY(strips.size() > 10);
        for (const auto& s : strips) {
            QVERIFY2(!s.level.empty() || !s.mute.empty() || !s.other.empty(), s.name.c_str());
            for (const auto& path : {s.level, s.mute, s.reading})
                QVERIFY2(path.empty() || controlDrive(demo_, path), path.c_str());
        }
        auto p = with(addSurface(demo_, "Wall", "council-slate"), demo_);
        p = with(makePages(p, "wall", "Council Hall", strips), p);
        const auto* s = p.surface("wall");
        QCOMPARE(s->pages[0].name, std::string("Council Hall")); // in place of the empty one
        std::size_t faders = 0, mutes = 0;
        for (const auto& one : s->pages)
            for (const auto& ply : one.plies)
                for (const auto& c : ply.controls) {
                    QVERIFY(c.x >= 0 && c.y >= 0 && c.x + c.width <= s->width && c.y + c.height <= s->height);
                    const double mm = std::min(c.width, c.height) * s->millimetres / s->width;
                    QVERIFY2(findControlKind(c.kind)->touch == Touch::none || mm >= 9, c.id.c_str());
                    faders += c.kind == "fader";
                    mutes += c.kind == "toggle" && !isSignal(*controlDrive(p, c.param));
                }
        std::size_t levels = 0, muted = 0;
        for (const auto& one : strips)
            levels += !one.level.empty(), muted += !one.mute.empty();
        QVERIFY(faders == levels && mutes == muted);
        // On a small screen they are several pages: from each to the next and back.
        auto small = with(addSurface(demo_, "Small", "", 640, 400), demo_);
        small = with(makePages(small, "small", "Council Hall", strips), small);
        const auto& pages = small.surface("small")->pages;
        Told told;
        SurfaceUse use(small, "small", told);
        QVERIFY(pages.size() > 1);
        const auto press = [&](const char* text) {
            for (const auto& ply : use.page()->plies)
                for (const auto& c : ply.controls)
                    if (c.text == text)
                        return use.click(c);
            QVERIFY2(false, text);
        };
        for (std::size_t i = 1; i < pages.size(); ++i)
            press("\u203a");
        QCOMPARE(use.page()->id, pages[pages.size() - 1].id);
        press("\u2039");
        QCOMPARE(use.page()->id, pages[pages.size() - 2].id);
        QVERIFY(refused(makePages(p, "wall", "Nothing", {}), p) && refused(makePages(p, "floor", "X", strips), p));
        p = with(makePages(p, "wall", "Again", {strips[0]}), p);
        QCOMPARE(p.surface("wall")->pages.back().name, std::string("Again"));
    }
    void takenElsewhere() {
        auto p = with(addSurface(demo_, "Wall", ""), demo_);
        const auto tern = pageSource(p, {"tern"})->strips;
        QVERIFY(!tern.empty());
        p = with(makePages(p, "wall", "Tern", tern), p);
        const auto list = repointOf(p, "wall", {}, "tern", "plover");
        QVERIFY(list.size() > 3);
        int there = 0;
        for (const auto& r : list) {
            QVERIFY(r.from.find("tern") != std::string::npos);
            there += !r.to.empty();
        }
        QVERIFY(there > 3);
        const auto q = with(repoint(p, "wall", {}, "tern", "plover"), p);
        for (const auto& r : list)
            QCOMPARE(q.surface("wall")->page(r.page)->control(r.control)->param, r.to.empty() ? r.from : r.to);
        // So does what is written there: it would lie. Words only, and a capital stays one.
        for (const auto& page : q.surface("wall")->pages) {
            QVERIFY2(page.name.find("Tern") == std::string::npos, page.name.c_str());
            for (const auto& ply : page.plies)
                for (const auto& c : ply.controls)
                    if (c.param.empty() || c.param.find("plover") != std::string::npos)
                        QVERIFY2(c.text.find("Tern") == std::string::npos, c.text.c_str());
        }
        auto worded = p;
        const auto say = [&](const char* text) {
            worded.surface("wall")->pages.change(0).plies.change(0).controls.change(0).text = text;
            return with(repoint(worded, "wall", {}, "tern", "plover"), worded)
                .surface("wall")
                ->pages[0]
                .plies[0]
                .controls[0]
                .text;
        };
        QCOMPARE(say("Tern, the tern and TERN; Western, Ternary"),
                 std::string("Plover, the plover and Plover; Western, Ternary"));
        QCOMPARE(say("L\u00e4ternd"), std::string("L\u00e4ternd"));
        // Conditions go with their controls, as far as they lead somewhere.
        auto asked = p;
        auto& controls = asked.surface("wall")->pages.change(0).plies.change(0).controls;
        std::size_t which = 0;
        while (controls[which].param.empty())
            ++which;
        controls.change(which).shown = "not " + controls[which].param;
        controls.change(which).enabled = "x/tern.on";
        const auto then = with(repoint(asked, "wall", {}, "tern", "plover"), asked);
        const auto& one = then.surfaces[0].pages[0].plies[0].controls[which];
        QVERIFY(one.param != controls[which].param && one.shown == "not " + one.param && one.enabled == "x/tern.on");
        QVERIFY(refused(repoint(p, "wall", {}, "ter", "plover"), p)); // whole words alone
        QVERIFY(refused(repoint(p, "wall", {}, "tern", "nowhere"), p));
        QVERIFY(repointOf(p, "wall", {"another"}, "tern", "plover").empty());
    }
    void conditions() {
        std::map<std::string, double> values{{"a/b.on", 1}, {"a/c.gain", -12}};
        const auto met = [&](const char* text) {
            const auto c = readCondition(text);
            return c && *c && isMet(**c, [&](const std::string& path) {
                       const auto it = values.find(path);
                       return it == values.end() ? std::nullopt : std::optional(it->second);
                   });
        };
        QVERIFY(met("a/b.on") && !met("not a/b.on") && met("a/c.gain > -20") && !met("a/c.gain > -12") &&
                met("a/c.gain<0") && met("a/c.gain = -12") && !met("a/c.gain = 3") && met("not a/c.gain > 0"));
        QVERIFY(!met("a/none.on") && !met("not a/none.on")); // not known: nothing is met
        QVERIFY(readCondition("") && !*readCondition(""));
        for (const char* bad : {"when it rains", "a/b >", "a/b > much", "/b", "a/", "not", "a/b on"})
            QVERIFY2(!readCondition(bad), bad);
    }
    void fingers() {
        auto p = wall();
        auto& one = p.surface("wall")->pages.change(0);
        one.plies.push_back({"drawer", "Drawer"});
        one.plies.change(1).closed = true;
        Control c;
        c.id = "over", c.kind = "hold", c.param = muted_, c.x = 90, c.y = 40, c.width = 100, c.height = 220;
        one.plies.change(1).controls.push_back(c);
        c = {};
        c.id = "open", c.kind = "press", c.ply = "drawer", c.x = 20, c.y = 500, c.width = 100, c.height = 60;
        one.plies.change(0).controls.push_back(c);
        c.id = "go", c.ply.clear(), c.page = "two", c.x = 200, c.confirm = true;
        one.plies.change(0).controls.push_back(c);
        c = {};
        c.id = "steps", c.kind = "steps", c.param = gain_, c.x = 400, c.y = 500, c.width = 240, c.height = 60;
        one.plies.change(0).controls.push_back(c);
        SurfacePage two;
        two.id = "two", two.name = "Two", two.roles = {"technician"};
        p.surface("wall")->pages.push_back(two);
        p.surface("wall")->roles = {{"technician", "Technician"}};
        p.surface("wall")->idleSeconds = 30;
        Told told;
        told.values = {{gain_, -10}, {muted_, 0}, {choice_, 0}};
        SurfaceUse use(p, "wall", told);
        QCOMPARE(use.page()->id, std::string("page-1"));
        const auto& fader = control(p, 0);
        QVERIFY(use.shown(fader).known &&
                std::abs(use.shown(fader).t - positionOf(*driveOf(p, gain_), rangeOf(*driveOf(p, gain_), fader), -10)) <
                    1e-9);
        // A fader goes to the finger, and two fingers have one each.
        const auto sketch = sketchOf(p, *p.surface("wall"), page(p), fader);
        use.press(1, fader.x + 40, fader.y + sketch.track.y1);
        QCOMPARE(told.values[gain_], driveOf(p, gain_)->spec.max);
        use.press(2, 310, 70); // the toggle meanwhile
        QVERIFY(use.shown(control(p, 1)).held.count(0));
        use.move(1, fader.x + 40, fader.y + sketch.track.y0 + 500);
        QCOMPARE(told.values[gain_], driveOf(p, gain_)->spec.min);
        QCOMPARE(told.values[muted_], 0.0); // a toggle waits for the finger to leave
        use.release(2);
        QCOMPARE(told.values[muted_], 1.0);
        QVERIFY(use.shown(control(p, 1)).on);
        use.release(1);
        use.press(1, 310, 70);
        use.move(1, 310, 300); // slid off: taken back
        use.release(1);
        QCOMPARE(told.values[muted_], 1.0);
        // Choices by their part.
        const auto n = driveOf(p, choice_)->spec.choices.size();
        use.press(1, 500 + 399, 90), use.release(1);
        QCOMPARE(told.values[choice_], static_cast<double>(n - 1));
        QCOMPARE(use.shown(control(p, 2)).chosen, static_cast<int>(n) - 1);
        // Steps.
        told.values[gain_] = -10;
        use.press(1, 630, 530), use.release(1);
        QVERIFY(told.values[gain_] > -10);
        use.press(1, 405, 530), use.release(1);
        QCOMPARE(told.values[gain_], -10.0);
        use.press(1, 520, 530), use.release(1); // between them is nothing
        QCOMPARE(told.values[gain_], -10.0);
        // A ply opens over what lies below, and what is held lets go.
        QCOMPARE(use.at(120, 100)->id, fader.id);
        use.press(1, 30, 510), use.release(1);
        QCOMPARE(use.at(120, 100)->id, std::string("over"));
        QVERIFY(use.shown(*use.page()->control("open")).on);
        use.press(1, 120, 100);
        QCOMPARE(told.values[muted_], 1.0);
        use.release(1);
        QCOMPARE(told.values[muted_], 0.0);
        use.press(1, 30, 510), use.release(1);
        QCOMPARE(use.at(120, 100)->id, fader.id);
        // What asks first; and who may not, does not.
        use.press(1, 210, 510), use.release(1);
        QCOMPARE(use.asked(), std::optional<std::string>("go"));
        use.press(1, 310, 70), use.release(1); // nothing else meanwhile
        QCOMPARE(told.values[muted_], 0.0);
        use.answer(false);
        QVERIFY(!use.asked() && use.page()->id == "page-1");
        use.press(1, 210, 510), use.release(1), use.answer(true);
        QCOMPARE(use.page()->id, std::string("page-1"));
        use.be("technician");
        use.press(1, 210, 510), use.release(1), use.answer(true);
        QCOMPARE(use.page()->id, std::string("two"));
        use.passed(29);
        QCOMPARE(use.page()->id, std::string("two"));
        use.passed(2); // back, and nobody in particular
        QVERIFY(use.page()->id == "page-1" && use.role().empty() && !use.open("two"));
        // Conditions: seen, works.
        auto q = p;
        q.surface("wall")->pages.change(0).plies.change(0).controls.change(1).shown = gain_ + " > -5";
        q.surface("wall")->pages.change(0).plies.change(0).controls.change(0).enabled = "not " + muted_;
        use.follow(q);
        QVERIFY(!use.at(310, 70));
        told.values[gain_] = 0;
        QVERIFY(use.at(310, 70));
        told.values[muted_] = 1;
        QVERIFY(!use.shown(control(q, 0)).enabled);
        use.press(1, fader.x + 40, fader.y + sketch.track.y0);
        QCOMPARE(told.values[gain_], 0.0);
        use.release(1);
        // What is not known is said so; what is gone from the design is let go.
        told.values.erase(gain_);
        QVERIFY(!use.shown(fader).known && use.shown(fader).text == "\u2013");
        q.surfaces = {};
        use.follow(q);
        QVERIFY(!use.page() && !use.at(1, 1));
        use.press(1, 10, 10), use.move(1, 20, 20), use.release(1);
    }
    void rangesHold() {
        auto p = wall();
        auto& c = p.surface("wall")->pages.change(0).plies.change(0).controls.change(0);
        c.low = -20, c.high = -10;
        Told told;
        told.values = {{gain_, -15}};
        SurfaceUse use(p, "wall", told);
        for (int i = 0; i < 200; ++i)
            use.step(control(p, 0), 1);
        QCOMPARE(told.values[gain_], -10.0);
        for (int i = 0; i < 400; ++i)
            use.step(control(p, 0), -1);
        QCOMPARE(told.values[gain_], -20.0);
        use.press(1, 140, 55);
        QCOMPARE(told.values[gain_], -10.0);
    }
};
LOOM_TEST(tst_surface, TestSurface)
#include "tst_surface.moc"
