// What lies over a page, drawers, scenes, roles, who is open, responses, lines; surfaces packed for devices; pictures.
#include "engine/block_kind.h"
#include "model/describe.h"
#include "models.h"
#include "rules/scenes.h"
#include "surface/icons.h"
#include "surface/over.h"
#include "surface/pack.h"
#include "surface/picture_size.h"
#include "surface/surface_edit.h"
#include "surface/use.h"
#include "test.h"
#include <cmath>

using namespace loom;
using namespace loom::project;

namespace {

// Values by path; a line that says how it is.
class Values : public SurfaceValues {
  public:
    explicit Values(const Project& p) : p_(p) {}
    std::optional<double> now(const Drive& d) override {
        if (const auto it = at.find(d.path); it != at.end())
            return it->second;
        return designValue(p_, d);
    }
    void set(const Drive& d, double v) override { at[d.path] = v, ++sets; }
    std::string line(const Drive&) override { return how; }
    void call(const Drive&, const std::string& does, const std::string& number) override {
        calls.push_back(does + " " + number);
    }
    std::string time() override { return "09:41"; }
    const Project& p_;
    std::map<std::string, double> at;
    std::string how = "on hook";
    std::vector<std::string> calls;
    int sets = 0;
};

constexpr const char* canopy = "heddle/council-canopy.level.gain";

} // namespace

class TestSurfaceUse : public QObject {
    Q_OBJECT
    Project demo_;
    // A page of 1000 by 600 with these controls on one ply.
    Project with(std::vector<Control> controls, const std::function<void(Surface&)>& how = {}) {
        auto p = demo_;
        Surface s;
        s.id = "wall", s.name = "Wall", s.width = 1000, s.height = 600;
        SurfacePage page;
        page.id = "one", page.name = "One";
        Ply ply;
        ply.id = "front", ply.name = "Front";
        for (auto& c : controls) {
            if (c.id.empty())
                c.id = c.kind;
            ply.controls.push_back(c);
        }
        page.plies.push_back(ply);
        s.pages.push_back(page);
        if (how)
            how(s);
        p.surfaces.push_back(s);
        return p;
    }
    static Control control(const char* kind, double x, double y, double w, double h, const std::string& param = "") {
        Control c;
        c.kind = kind, c.x = x, c.y = y, c.width = w, c.height = h, c.param = param;
        return c;
    }
    static void tap(SurfaceUse& use, double x, double y) {
        use.press(0, x, y);
        use.release(0);
    }
    static void tapPart(SurfaceUse& use, int part) { // of what lies over the page
        const auto over = *use.over();
        for (const auto& m : over.marks)
            if (m.part == part)
                return tap(use, m.x.at + m.width.at / 2, m.y.at + m.height.at / 2);
        QFAIL("no such part");
    }

  private slots:
    void initTestCase() {
        demo_ = *test::load(LOOM_SOURCE_DIR "/demo/marram-point");
        demo_.surfaces = {};
    }
    void listsLieOverThePage() {
        const auto p = with({control("list", 20, 540, 200, 50, "heddle/chair.highpass.slope")});
        Values v(p);
        v.at["heddle/chair.highpass.slope"] = 1;
        SurfaceUse use(p, "wall", v);
        QVERIFY(!use.over());
        tap(use, 100, 560);
        QCOMPARE(use.overOf(), std::string("list"));
        const auto over = *use.over();
        QCOMPARE(over.parts, 8);
        for (const auto& m : over.marks) { // no room below it: above, and all of it on the page
            QVERIFY(m.x.at >= 0 && m.y.at >= 0);
            QVERIFY(m.x.at + m.width.at <= 1000 && m.y.at + m.height.at <= 540);
        }
        QCOMPARE(use.overShown().chosen, 1); // 12 dB/oct
        tapPart(use, 3);
        QVERIFY(!use.over());
        QCOMPARE(v.at.at("heddle/chair.highpass.slope"), 3.0);
        // Left: by Esc, and by a press beside it, which does nothing else.
        tap(use, 100, 560);
        use.overKey("escape");
        QVERIFY(!use.over());
        tap(use, 100, 560);
        tap(use, 900, 20);
        QVERIFY(!use.over() && v.at.at("heddle/chair.highpass.slope") == 3.0);
        // A finger that slides off a choice chooses nothing.
        tap(use, 100, 560);
        use.press(0, over.marks[1].x.at + 5, over.marks[1].y.at + 5);
        use.move(0, 900, 20);
        use.release(0);
        QCOMPARE(v.at.at("heddle/chair.highpass.slope"), 3.0);
        use.choose(99);
        QCOMPARE(v.at.at("heddle/chair.highpass.slope"), 3.0);
    }
    void numbersAreTyped() {
        auto c = control("field", 400, 100, 150, 60, canopy);
        c.low = -40, c.high = 6, c.digits = 1;
        const auto p = with({c});
        Values v(p);
        SurfaceUse use(p, "wall", v);
        tap(use, 450, 120);
        for (const char* key : {"-", "1", "2", ".", ".", "5"})
            use.overKey(key);
        QCOMPARE(use.overShown().text, std::string("\u221212.5"));
        use.overKey("back");
        use.overKey("-");
        use.overKey("-");
        tapPart(use, 14); // Set
        QCOMPARE(v.at.at(canopy), -12.0);
        QVERIFY(!use.over());
        // Beyond what the control may: its end.
        tap(use, 450, 120);
        for (const char* key : {"9", "9", "9"})
            use.overKey(key);
        use.overKey("enter");
        QCOMPARE(v.at.at(canopy), 6.0);
        // Nothing typed, and nonsense, set nothing.
        const int before = v.sets;
        tap(use, 450, 120);
        use.overKey("enter");
        tap(use, 450, 120);
        use.overKey("-");
        use.overKey("enter");
        QCOMPARE(v.sets, before);
        // By keys on the control itself.
        use.key(*use.page()->control("field"), "3");
        QVERIFY(use.over() && use.overShown().text == "3");
        QCOMPARE(numberKeys().size(), std::size_t(15));
    }
    void drawersComeAndGo() {
        auto open = control("press", 10, 10, 100, 60), inside = control("press", 700, 100, 100, 60, canopy);
        open.ply = "side", inside.id = "inside", inside.value = -3;
        auto below = control("toggle", 650, 300, 200, 60, "heddle/far-send.mute.muted");
        const auto p = with({open, below}, [&](Surface& s) {
            Ply side;
            side.id = "side", side.name = "Side", side.edge = "right", side.extent = 400, side.closed = true;
            side.outside = true, side.closesAfter = 30;
            side.look.fill = "#203040";
            side.controls.push_back(inside);
            s.pages.change(0).plies.push_back(side);
        });
        Values v(p);
        SurfaceUse use(p, "wall", v);
        const auto& side = use.page()->plies[1];
        const auto box = drawerBox(*use.surface(), side);
        QVERIFY(box.x == 600 && box.y == 0 && box.width == 400 && box.height == 600);
        QVERIFY(!use.isOpen(side));
        tap(use, 50, 30);
        QVERIFY(use.isOpen(side) && use.shown(*use.page()->control("press")).on);
        tap(use, 700, 330); // nothing is reached through it
        QVERIFY(!v.at.count("heddle/far-send.mute.muted"));
        tap(use, 720, 120);
        QCOMPARE(v.at.at(canopy), -3.0);
        tap(use, 300, 300); // beside it
        QVERIFY(!use.isOpen(side));
        tap(use, 700, 330);
        QCOMPARE(v.at.at("heddle/far-send.mute.muted"), 1.0);
        // By itself, when nobody has touched it for long.
        tap(use, 50, 30);
        use.passed(29);
        QVERIFY(use.isOpen(side));
        tap(use, 720, 120);
        use.passed(29);
        QVERIFY(use.isOpen(side));
        use.passed(2);
        QVERIFY(!use.isOpen(side));
        // What lies on it inherits its look.
        QCOMPARE(paintOf(*use.surface(), *use.page(), inside).page.text(), std::string("#203040"));
        QCOMPARE(drawerFill(*use.surface(), *use.page(), side).text(), std::string("#203040"));
        for (const auto& [edge, x, y, w, h] :
             {std::tuple("left", 0.0, 0.0, 400.0, 600.0), {"top", 0, 0, 1000, 400}, {"bottom", 0, 200, 1000, 400}}) {
            Ply other = side;
            other.edge = edge;
            const auto b = drawerBox(*use.surface(), other);
            QVERIFY(b.x == x && b.y == y && b.width == w && b.height == h);
        }
    }
    void scenesAreKeptAndRecalled() {
        auto p = demo_;
        const auto edit = keepScene(p, "Quiet", "council", {{canopy, -20}, {"heddle/far-send.mute.muted", 1}});
        QVERIFY(bool(edit));
        p = *edit->make(p);
        QVERIFY(!keepScene(p, "", "council", {{canopy, -20}}) && !keepScene(p, "Empty", "", {}) &&
                !keepScene(p, "Gone", "", {{"heddle/nobody.gain", 1}}));
        // One of that name is kept anew.
        const auto count = p.scenes.size();
        p = *keepScene(p, "Quiet", "council", {{canopy, -22}})->make(p);
        QCOMPARE(p.scenes.size(), count);
        p = *keepScene(p, "Quiet", "council", {{canopy, -20}, {"heddle/far-send.mute.muted", 1}})->make(p);
        QCOMPARE(sceneValuesOf(p, {canopy, "heddle/nobody.gain"}).size(), std::size_t(1));
        // Into the design, and out again.
        const auto set = *recallScene(p, "quiet")->make(p);
        QCOMPARE(*designValue(set, *driveOf(set, canopy)), -20.0);
        QVERIFY(!removeScene(p, "no") && !recallScene(p, "no") && !sceneSaid(p, "no") && sceneSaid(p, "Quiet"));
        QCOMPARE(removeScene(p, "quiet")->make(p)->scenes.size(), count - 1);
        // Pressed: all of its values; what it shows follows from what holds.
        demo_.scenes.push_back(*p.scene("quiet"));
        const auto wall = with({control("press", 0, 0, 100, 100, "scene:quiet")});
        demo_.scenes = {};
        Values v(wall);
        SurfaceUse use(wall, "wall", v);
        const auto& c = *use.page()->control("press");
        v.at[canopy] = 0, v.at["heddle/far-send.mute.muted"] = 0;
        QVERIFY(use.shown(c).known && !use.shown(c).on && !use.shown(c).mixed);
        tap(use, 50, 50);
        QVERIFY(v.at[canopy] == -20 && v.at["heddle/far-send.mute.muted"] == 1);
        QVERIFY(use.shown(c).on && !use.shown(c).mixed);
        v.at[canopy] = -19;
        QVERIFY(!use.shown(c).on && use.shown(c).mixed);
    }
    void whoMayBeWhom() {
        auto go = control("press", 0, 0, 100, 100);
        go.page = "two";
        const auto p = with({go}, [](Surface& s) {
            s.roles.push_back({"tech", "Technician"});
            SurfacePage two;
            two.id = "two", two.name = "Two", two.roles = {"tech"};
            two.plies.push_back({"p", "P"});
            s.pages.push_back(two);
        });
        Values v(p);
        SurfaceUse use(p, "wall", v);
        tap(use, 50, 50);
        QVERIFY(use.page()->id == "one" && use.wanted() == "two");
        tap(use, 50, 50); // nothing else is done until this is settled
        use.letBe();
        QVERIFY(use.wanted().empty());
        tap(use, 50, 50);
        use.be("tech");
        QVERIFY(use.page()->id == "two" && use.wanted().empty()); // where they wanted to go
        use.passed(599);
        QCOMPARE(use.role(), std::string("tech"));
        use.passed(2); // nobody stays who they are when they have left
        QVERIFY(use.role().empty() && use.page()->id == "one");
        // A surface whose first page is for some only begins with one that is not.
        auto other = p;
        other.surface("wall")->start = "two";
        SurfaceUse begins(other, "wall", v);
        QCOMPARE(begins.page()->id, std::string("one"));
        // As edits, by names.
        const PagePlace place{"wall", "one"};
        auto roles = *setRoles("wall", {"Technician", "Staff", "staff"}).make(p);
        QCOMPARE(roles.surface("wall")->roles.size(), std::size_t(2));
        QCOMPARE(roles.surface("wall")->roles[0].id, std::string("tech")); // who was there stays who they are
        roles = *setPageField(place, "roles", "Staff, Technician").make(roles);
        QCOMPARE(roles.surface("wall")->page("one")->roles.size(), std::size_t(2));
        QVERIFY(!setPageField(place, "roles", "Nobody").make(roles));
        roles = *setRoles("wall", {"Technician"}).make(roles);
        QCOMPARE(roles.surface("wall")->page("one")->roles, std::vector<std::string>{"tech"});
        QVERIFY(!setRoles("wall", {}).make(roles)); // else pages for some would open for everybody
    }
    void whoIsOpen() {
        const auto d = *driveOf(demo_, "heddle/council-hall-microphones@lanes");
        QCOMPARE(d.lanes.size(), std::size_t(10));
        QCOMPARE(d.lanes[0], std::string("Chair")); // by whom, through what lies between
        QCOMPARE(d.lanes[8], std::string("Delegate 8"));
        const auto p = with({control("lamps", 0, 0, 400, 200, d.path)});
        Values v(p);
        SurfaceUse use(p, "wall", v);
        const auto& c = *use.page()->control("lamps");
        QVERIFY(!use.shown(c).known);
        v.at["heddle/council-hall-microphones@lane 2"] = -3;
        v.at["heddle/council-hall-microphones@lane 3"] = -40;
        const auto s = use.shown(c);
        QVERIFY(s.known && s.series.size() == 10 && s.series[0] == -1 && s.series[1] == 1 && s.series[2] == 0);
        QCOMPARE(s.text, std::string("1 open"));
        int lit = 0, rings = 0;
        for (const auto& m : sketchOf(p, *use.surface(), *use.page(), c).marks)
            if (m.of >= 0) {
                rings += m.when == Mark::When::always;
                lit += m.when == Mark::When::on && isDrawn(m, s);
            }
        QVERIFY(rings == 10 && lit == 1);
        const auto lane = *driveOf(demo_, "heddle/council-hall-microphones@lane 2");
        QVERIFY(lane.kind == Drive::Kind::reading && lane.readout == d.readout + 1);
        QVERIFY(!driveOf(demo_, "heddle/council-hall-microphones@lane 11") &&
                !driveOf(demo_, "heddle/council-hall-microphones@lane 0") && !driveOf(demo_, "heddle/chair.eq@lanes"));
    }
    void responsesFollowTheirSettings() {
        const auto p = with({control("response", 0, 0, 400, 200, "heddle/chair.highpass@response")});
        Values v(p);
        SurfaceUse use(p, "wall", v);
        v.at["heddle/chair.highpass.on"] = 1;
        v.at["heddle/chair.highpass.corner"] = 200;
        v.at["heddle/chair.highpass.slope"] = 1; // 12 dB/oct, Butterworth: -3.01 dB at its corner
        v.at["heddle/chair.highpass.shape"] = 0;
        const auto& c = *use.page()->control("response");
        const auto s = use.shown(c).series;
        QCOMPARE(s.size(), std::size_t(97));
        const auto at = [&](double hz) {
            return 48 * s[static_cast<std::size_t>(std::lround(96 * std::log10(hz / 20) / 3))] - 24;
        };
        QVERIFY(std::abs(at(200) + 3.01) < 0.1); // one of the 97 is 200 Hz
        QVERIFY(std::abs(at(2000)) < 0.1);
        QVERIFY(at(50) < -20);
        v.at["heddle/chair.highpass.corner"] = 2000;
        QVERIFY(std::abs(48 * use.shown(c).series[64] - 24 + 3.01) < 0.1);
    }
    void linesAreDialled() {
        const auto p = with({control("dial", 0, 0, 300, 400, "heddle/tel 1@line")});
        Values v(p);
        SurfaceUse use(p, "wall", v);
        const auto& c = *use.page()->control("dial");
        const auto part = [&](int which) {
            for (const auto& m : sketchOf(p, *use.surface(), *use.page(), c).marks)
                if (m.part == which)
                    return tap(use, m.x.at + 4, m.y.at + 4);
        };
        QCOMPARE(use.shown(c).text, std::string("on hook"));
        for (const int key : {1, 10, 3, 0, 13, 0}) // 2 0 4 1, one taken back, 1
            part(key);
        QCOMPARE(use.shown(c).text, std::string("2041"));
        part(12);
        QCOMPARE(v.calls, (std::vector<std::string>{"dial 2041"}));
        v.how = "in a call";
        QVERIFY(use.shown(c).on && use.shown(c).text == "in a call");
        part(11);
        QCOMPARE(v.calls.back(), std::string("keys #"));
        part(12);
        QCOMPARE(v.calls.back(), std::string("hang-up "));
        v.how = "rings here";
        use.key(c, "enter");
        QCOMPARE(v.calls.back(), std::string("answer "));
        v.how = "";
        QVERIFY(!use.shown(c).known);
    }
    void whatWasLately() {
        const auto p =
            with({control("history", 0, 0, 300, 200, "heddle/chair.eq@level"), control("clock", 0, 300, 90, 40)});
        Values v(p);
        SurfaceUse use(p, "wall", v);
        const auto& c = *use.page()->control("history");
        use.passed(0.25);
        v.at["heddle/chair.eq@level"] = -30;
        for (int i = 0; i < 200; ++i)
            use.passed(0.25);
        const auto s = use.shown(c).series;
        QCOMPARE(s.size(), std::size_t(120)); // half a minute
        QCOMPARE(s.back(), 0.5);              // -60 to 0 dBFS
        QCOMPARE(use.shown(*use.page()->control("clock")).text, std::string("09:41"));
    }
    // By keys, and by what a browser says: what is only seen or only pressed is not turned, what asks first asks.
    void stepsOfWhatHasNone() {
        auto shown = control("value", 0, 0, 100, 50, canopy), button = control("press", 0, 60, 100, 50, canopy),
             fader = control("fader", 200, 0, 100, 200, canopy),
             toggle = control("toggle", 0, 120, 100, 50, "heddle/chair.preamp.phantom");
        toggle.confirm = true;
        const auto p = with({shown, button, fader, toggle});
        Values values(p);
        SurfaceUse use(p, "wall", values);
        const auto at = [&](std::size_t i) -> const Control& { return use.page()->plies[0].controls[i]; };
        for (const std::size_t i : {0u, 1u}) {
            use.step(at(i), 1);
            use.key(at(i), "5");
            QCOMPARE(values.sets, 0);
        }
        use.step(at(2), -1);
        QCOMPARE(values.sets, 1);
        use.step(at(3), 1);
        QVERIFY(values.sets == 1 && use.asked());
        use.step(at(2), -1); // while it asks nothing else is turned
        QCOMPARE(values.sets, 1);
        use.answer(false);
        QCOMPARE(values.sets, 1);
        use.step(at(3), 1);
        use.answer(true);
        QCOMPARE(values.sets, 2);
        QCOMPARE(values.at["heddle/chair.preamp.phantom"],
                 1 - *designValue(p, *driveOf(p, "heddle/chair.preamp.phantom")));
    }
    void fingersThatAreTakenAway() {
        auto hold = control("hold", 0, 0, 100, 60, "heddle/chair.preamp.mute");
        auto go = control("press", 0, 100, 100, 60, canopy);
        go.value = -1;
        const auto p = with({hold, go});
        Values v(p);
        SurfaceUse use(p, "wall", v);
        use.press(3, 50, 30);
        QCOMPARE(v.at.at("heddle/chair.preamp.mute"), 1.0);
        use.cancel(3);
        QCOMPARE(v.at.at("heddle/chair.preamp.mute"), 0.0);
        use.press(3, 50, 120);
        use.cancel(3);
        QVERIFY(!v.at.count(canopy));
        use.press(3, 50, 120);
        use.press(3, 50, 30); // one finger is at one place
        QCOMPARE(v.at.at("heddle/chair.preamp.mute"), 0.0);
        use.release(3);
        QCOMPARE(v.at.at(canopy), -1.0);
    }
    void packedForDevices() {
        auto p = *test::load(LOOM_SOURCE_DIR "/demo/marram-point");
        p.surface("council-slate")->pages.change(0).guidesAcross = {10};
        auto& ply = p.surface("council-slate")->pages.change(0).plies.change(0);
        ply.hiddenHere = ply.locked = true;
        const auto& s = *p.surface("council-slate");
        QCOMPARE(surfacesOn(p, *p.device("council-slate")).size(), std::size_t(1));
        QVERIFY(!surfacesOn(p, *p.device("heddle")).empty()); // it drives something of it
        QVERIFY(surfacesOn(p, *p.device("council-canopy")).empty());
        const auto text = packSurface(p, s, "council-slate");
        const auto packed = unpackSurface(text, test::models());
        QVERIFY2(bool(packed), packed ? "" : packed.error().text().c_str());
        QVERIFY(packed->as == "council-slate" && packed->surface == "council-slate" && packed->pictures.size() == 3);
        const auto& there = packed->project.surfaces.front();
        QVERIFY(there.pages[0].guidesAcross.empty() && !there.pages[0].plies[0].hiddenHere &&
                !there.pages[0].plies[0].locked);
        // All that it points to has the name it has in the design; nothing else is told.
        for (const auto& page : s.pages)
            for (const auto& one : page.plies)
                for (const auto& c : one.controls)
                    if (!c.param.empty()) {
                        const auto a = controlDrive(p, c.param), b = controlDrive(packed->project, c.param);
                        QVERIFY2(a && b, c.param.c_str());
                        QCOMPARE(b->label, a->label);
                        QCOMPARE(b->lanes, a->lanes);
                        QCOMPARE(b->spec.max, a->spec.max);
                    }
        QVERIFY(text.find("recorder") == std::string::npos);
        QVERIFY(text.size() < 120000);
        // What it may set, and how far.
        const auto uses = pathsUsed(packed->project, there);
        const auto& level = uses.at(canopy);
        QVERIFY(level.sets && level.high == 12 && level.low <= -60); // the page for the technician goes further
        QVERIFY(uses.count("heddle/council-hall-microphones@lane 10") && !uses.at("heddle/chair.eq@level").sets);
        QVERIFY(uses.at("heddle/delegate-3.preamp.mute").sets); // by the scenes
        QVERIFY(!uses.count("heddle/recorder.level.gain"));
        // The same text has the same print; another has another; a print is its own.
        QCOMPARE(packPrint(text), packPrint(packSurface(p, s, "council-slate")));
        QVERIFY(packPrint(text) != packPrint(packSurface(p, s, "heddle")) &&
                packPrint(packPrint(text)) == packPrint(text));
        // Taken back into the design, what is for editing alone stays.
        auto changed = p;
        changed.surface("council-slate")->name = "Another";
        const auto other = packSurface(changed, *changed.surface("council-slate"), "heddle");
        QVERIFY(bool(adoptSurface(p, "council-slate", other)));
        QVERIFY(p.surface("council-slate")->name == "Another" &&
                p.surface("council-slate")->pages[0].guidesAcross.size() == 1 &&
                p.surface("council-slate")->pages[0].plies[0].hiddenHere);
        auto none = demo_;
        QVERIFY(adoptSurface(none, "council-slate", other) && none.surfaces.size() == 1);
        for (const char* bad :
             {"", "{}", "[]", "{\"as\": 3}", "{\"as\": \"a\", \"pictures\": {\"x\": \"..\"}, \"project\": {}}",
              "{\"as\": \"a\", \"pictures\": {}, \"project\": {}}"})
            QVERIFY(!unpackSurface(bad, test::models()));
        QVERIFY(!adoptSurface(none, "council-slate", "{}"));
    }
    void pictures() {
        const auto bytes = [](const std::string& s) { return std::vector<char>(s.begin(), s.end()); };
        std::string png("\x89PNG\r\n\x1a\n\0\0\0\rIHDR\0\0\x02\x80\0\0\x01\x90\x08\6\0\0\0\0\0\0\0", 33);
        const auto size = pictureSize(bytes(png));
        QVERIFY(size && size->width == 640 && size->height == 400);
        std::string jpeg("\xff\xd8\xff\xe0\0\4ab\xff\xff\xc0\0\x11\x08\1\x90\2\x80\3\1\x22", 22);
        const auto frame = pictureSize(bytes(jpeg));
        QVERIFY(frame && frame->width == 640 && frame->height == 400);
        const auto svg = pictureSize(bytes("<?xml version='1.0'?><svg viewBox='0 0 40,20.5'></svg>"));
        QVERIFY(svg && svg->width == 40 && svg->height == 21 && svg->kind == PictureSize::Kind::svg);
        QCOMPARE(pictureSize(bytes("<svg width=\"300px\" height='7' viewBox='0 0 1 1'>"))->width, 300);
        for (const char* bad : {"", "GIF89a", "<svg>", "<svg viewBox='0 0 0 0'>", "<html>", "\xff\xd8\xff",
                                "<svg width='-3' height='2'>"})
            QVERIFY2(!pictureSize(bytes(bad)), bad);
        for (std::size_t i = 0; i < png.size(); ++i) // cut anywhere
            (void)pictureSize(bytes(png.substr(0, i)));
        for (std::size_t i = 0; i < jpeg.size(); ++i)
            QVERIFY(!pictureSize(bytes(jpeg.substr(0, i))) || i > 18);
        png[18] = '\x4e', png[19] = '\x20'; // 20,000 pixels across
        QVERIFY(errorInPicture(bytes(png))->message.find("20000") != std::string::npos);
        QVERIFY(errorInPicture(bytes("<svg viewBox='0 0 9 9'><script>1</script></svg>")));
        QVERIFY(errorInPicture(bytes("<svg viewBox='0 0 9 9'><image href='http://elsewhere/x.png'/></svg>")));
        QVERIFY(errorInPicture(bytes("<svg viewBox='0 0 9 9'><rect fill='url(//elsewhere)'/></svg>")));
        QVERIFY(!errorInPicture(bytes("<svg viewBox='0 0 9 9'><use href='#a'/><rect fill='url(#g)'/></svg>")));
        QVERIFY(errorInPicture(std::vector<char>(largestPicture + 1, 'x')));
        // Into the project and onto a button; what they weigh.
        const auto p = with({control("press", 10, 10, 200, 100)});
        const PagePlace place{"wall", "one"};
        const auto plain = bytes("<svg viewBox='0 0 30 20'></svg>");
        auto on = *setPicture(p, place, {"press"}, "on", "a b.svg", plain)->make(p);
        const auto name = on.surface("wall")->page("one")->control("press")->pictures.on;
        QVERIFY(on.assets.count(name));
        QVERIFY(!setPicture(p, place, {"press"}, "never", "a.svg", plain) &&
                !setPicture(p, place, {"press"}, "on", "a.svg", {}));
        on = *addPicture(on, place, "plan.svg", plain, 5, 5)->make(on);
        const auto* made = on.surface("wall")->page("one")->control("picture");
        QVERIFY(made && made->x == 0 && made->y == 0 && made->width == 30); // on the page
        const auto loads = pictureLoads(on, *on.surface("wall"));
        QCOMPARE(loads.size(), std::size_t(2));
        QVERIFY(loads[0].name == name && loads[0].bytes == 4.0 * 200 * 100 && !loads[0].lost);
        on.assets.erase(name);
        QVERIFY(pictureLoads(on, *on.surface("wall")).back().lost);
        Values v(on);
        SurfaceUse use(on, "wall", v);
        QCOMPARE(use.shown(*made).picture, made->pictures.always);
    }
    void icons() {
        for (const auto& icon : iconNames()) {
            const auto marks = iconMarks(icon.id, 100, 50, 48, {1, 2, 3, 255});
            QVERIFY2(!marks.empty(), icon.id);
            for (const auto& m : marks) {
                const auto in = [&](double x, double y) { return x >= 97 && x <= 151 && y >= 47 && y <= 101; };
                if (m.points.empty() && m.kind != Mark::Kind::arc) // of an arc only a part is drawn
                    QVERIFY2(in(m.x.at, m.y.at) && in(m.x.at + m.width.at, m.y.at + m.height.at), icon.id);
                for (const auto& c : m.points)
                    QVERIFY2(in(c[0], c[1]), icon.id);
            }
        }
        QVERIFY(iconMarks("none", 0, 0, 10, {}).empty());
    }
    void corners() {
        QCOMPARE(readCorners("0 0, 100 20,50 100")->size(), std::size_t(3));
        for (const char* bad : {"", "0 0, 1 1", "0 0, 1 1, 2", "0 0, 1 1, 101 3", "a b, c d, e f"})
            QVERIFY2(!readCorners(bad), bad);
    }
};

LOOM_TEST(tst_surface_use, TestSurfaceUse)
#include "tst_surface_use.moc"
