// What comes onto a page at once: strips, groups, beads; sources of pages; copies of another kind; rooms with surfaces.
#ifndef Q_MOC_RUN
#include "findings/findings.h"
#include "findings/surface_findings.h"
#include "model/describe.h"
#include "rooms/plan_clip.h"
#include "rooms/room_copy.h"
#include "surface/bundle.h"
#include "surface/letters.h"
#include "surface/make_page.h"
#include "surface/pack.h"
#endif
#include "models.h"
#include "test.h"

using namespace loom;
using namespace loom::project;

class TestBundle : public QObject {
    Q_OBJECT
    Project demo_, wall_; // wall_: with an empty surface
    PagePlace place_{"wall", "page-1"};
    Project with(const Result<Edit>& edit, const Project& p) const {
        if (!edit)
            qFatal("%s", edit.error().text().c_str());
        auto then = edit->make(p);
        if (!then)
            qFatal("%s", then.error().text().c_str());
        return *then;
    }
    static std::vector<Control> on(const Project& p) {
        std::vector<Control> all;
        for (const auto& ply : p.surface("wall")->page("page-1")->plies)
            all.insert(all.end(), ply.controls.begin(), ply.controls.end());
        return all;
    }
    std::string laneOf(const char* lane) const {
        return findBundles(wall_, std::string("council ") + lane, 20).at(0).path;
    }
    static std::multiset<std::string> kinds(const std::vector<Control>& all) {
        std::multiset<std::string> k;
        for (const auto& c : all)
            k.insert(c.kind);
        return k;
    }

  private slots:
    void initTestCase() {
        demo_ = *test::load(LOOM_SOURCE_DIR "/demo/marram-point");
        wall_ = with(addSurface(demo_, "Wall", "", 1280, 800), demo_);
    }
    void aLaneComesAsItsStrip() {
        const auto found = findBundles(wall_, "council chair", 20);
        QVERIFY(!found.empty() && found[0].path.rfind("strip:heddle/", 0) == 0);
        QVERIFY(found[0].detail.find("level") != std::string::npos);
        const auto p = with(putOnPage(wall_, place_, {found[0].path}, 100, 60), wall_);
        const auto all = on(p);
        QCOMPARE(kinds(all), (std::multiset<std::string>{"fader", "meter", "toggle"}));
        for (const auto& c : all) {
            QVERIFY(driveOf(p, c.param) && c.group == all[0].id);
            QVERIFY(c.x >= 100 && c.y >= 60 && c.x + c.width <= 232.1 && c.y + c.height <= 380.1);
        }
        // Where it would lie outside it lies at the edge; on the ply that is meant.
        const auto far = on(with(putOnPage(wall_, place_, {found[0].path}, 5000, -50, "controls"), wall_));
        for (const auto& c : far)
            QVERIFY(c.x + c.width <= 1280 && c.y >= 0);
        QVERIFY(!putOnPage(wall_, place_, {"strip:heddle/nothing"}, 0, 0) &&
                !putOnPage(wall_, place_, {"strip:"}, 0, 0));
        QVERIFY(!putOnPage(wall_, {"wall", "none"}, {found[0].path}, 0, 0));
        QVERIFY(!putOnPage(wall_, place_, {found[0].path}, 0, 0, "no-ply")->make(wall_));
    }
    void aGroupAndABead() {
        const auto groups = findBundles(wall_, "microphones group", 20);
        const auto group =
            std::find_if(groups.begin(), groups.end(), [](const auto& b) { return b.path.rfind("group:", 0) == 0; });
        QVERIFY(group != groups.end());
        const auto made = on(with(putOnPage(wall_, place_, {group->path}, 20, 20), wall_));
        std::size_t faders = 0;
        for (const auto& c : made) {
            faders += c.kind == "fader";
            QVERIFY(c.x + c.width <= 1280);
        }
        QVERIFY(faders >= 9); // the chair and eight delegates
        // Several beside each other: none over another, each group by itself.
        const auto several = on(
            with(putOnPage(wall_, place_, {laneOf("chair"), "heddle/chair.preamp.gain", laneOf("delegate 1")}, 40, 40),
                 wall_));
        QCOMPARE(several.size(), std::size_t(7));
        std::map<std::string, int> together;
        for (std::size_t i = 0; i < several.size(); ++i) {
            ++together[several[i].group];
            for (std::size_t k = i + 1; k < several.size(); ++k)
                QVERIFY(several[i].x + several[i].width <= several[k].x ||
                        several[k].x + several[k].width <= several[i].x ||
                        several[i].y + several[i].height <= several[k].y ||
                        several[k].y + several[k].height <= several[i].y);
        }
        QVERIFY(together.size() == 3 && together[""] == 1);
        QVERIFY(!putOnPage(wall_, place_, {}, 0, 0) && !putOnPage(wall_, place_, {laneOf("chair"), "nothing"}, 0, 0));
        QVERIFY(isBundle("bead:x/y") && !isBundle("heddle/chair.level.gain"));
        const auto fields = on(with(putOnPage(wall_, place_, {"bead:heddle/chair.preamp"}, 20, 20), wall_));
        const auto* b = wall_.device("heddle")->program->find("chair.preamp");
        QCOMPARE(fields.size(), engine::BlockView(*b).table->specs().size());
        for (std::size_t i = 0; i < fields.size(); ++i)
            for (std::size_t k = i + 1; k < fields.size(); ++k)
                QVERIFY(fields[i].x + fields[i].width <= fields[k].x || fields[k].x + fields[k].width <= fields[i].x ||
                        fields[i].y + fields[i].height <= fields[k].y || fields[k].y + fields[k].height <= fields[i].y);
        QVERIFY(findBundles(wall_, "", 5).size() == 5 && findBundles(wall_, "no such words", 5).empty());
        for (const auto& one : findBundles(wall_, "", 500))
            QVERIFY(one.path.rfind("bead:", 0) != 0);
    }
    void newOnesAreSeen() { // not on a drawer that is closed, unless there is nothing else
        auto p = wall_;
        auto& page = p.surface("wall")->pages.change(0);
        Ply drawer;
        drawer.id = "drawer", drawer.name = "Drawer", drawer.edge = "right", drawer.closed = true;
        page.plies.push_back(drawer);
        const auto plyOf = [&](const Project& of) {
            const auto then = with(Result<Edit>(addControls(place_, {{"text"}})), of);
            for (const auto& ply : then.surface("wall")->pages[0].plies)
                if (!ply.controls.empty())
                    return ply.id;
            return std::string();
        };
        QCOMPARE(plyOf(p), wall_.surface("wall")->pages[0].plies[0].id);
        p.surface("wall")->pages.change(0).plies.change(0).locked = true;
        QCOMPARE(plyOf(p), std::string("drawer"));
    }
    void whatPagesAreMadeFor() {
        const auto all = pageSources(demo_);
        const auto has = [&](const std::string& said) {
            return std::any_of(all.begin(), all.end(), [&](const auto& s) { return s.said == said; });
        };
        QVERIFY(has("council") && has("tern+plover") && has("heddle"));
        for (const auto& one : all) {
            const auto source = pageSource(demo_, {one.said});
            QVERIFY2(bool(source), one.said.c_str());
            for (const auto& s : source->strips)
                for (const auto& path : {s.level, s.mute, s.reading, s.other})
                    QVERIFY2(path.empty() || controlDrive(demo_, path), path.c_str());
        }
        // Parameters: those of one block are one strip.
        const auto some = pageSource(demo_, {"heddle/chair.preamp.gain", "heddle/chair.preamp.mute",
                                             "heddle/chair@level", "scene:meeting", "heddle/chair.highpass.slope"});
        QVERIFY(bool(some));
        QCOMPARE(some->strips.size(), std::size_t(4));
        QVERIFY(some->strips[0].level == "heddle/chair.preamp.gain" &&
                some->strips[0].mute == "heddle/chair.preamp.mute");
        QCOMPARE(some->strips[2].other, std::string("scene:meeting"));
        const auto p = with(makePages(wall_, "wall", some->title, some->strips), wall_);
        std::set<std::string> driven;
        for (const auto& ply : p.surface("wall")->pages[0].plies)
            for (const auto& c : ply.controls)
                driven.insert(c.param);
        for (const char* path : {"heddle/chair.preamp.gain", "heddle/chair@level", "scene:meeting"})
            QVERIFY2(driven.count(path), path);
        for (const auto& said :
             std::vector<std::vector<std::string>>{{"nowhere"}, {}, {"council-tap"}, {"heddle/none"}})
            QVERIFY(!pageSource(demo_, said));
        QVERIFY(pageSource(demo_, {"nowhere"}).error().place == "nowhere");
    }
    void severalDevicesSideBySide() {
        auto p = demo_;
        auto twin = *p.device("heddle");
        twin.id = "heddle-2", twin.name = "Second heddle";
        p.devices.push_back(twin);
        const auto all = pageSources(p);
        const auto model =
            std::find_if(all.begin(), all.end(), [](const auto& s) { return s.said == "model:heddle-16"; });
        QVERIFY(model != all.end() && model->title.find("side by side") != std::string::npos);
        const auto both = *pageSource(p, {model->said}), one = *pageSource(p, {"heddle"}),
                   said = *pageSource(p, {"heddle", "heddle-2"});
        QCOMPARE(both.strips.size(), 2 * one.strips.size());
        QCOMPARE(said.strips.size(), both.strips.size());
        QVERIFY(both.strips[0].name.find(" \u00b7 ") != std::string::npos &&
                both.strips[0].name != both.strips[one.strips.size()].name);
        QCOMPARE(pageSource(p, {"heddle"})->strips[0].name, one.strips[0].name);
    }
    void aCopyOfAnotherKind() {
        auto p = with(
            Result<Edit>(addControls(place_, {{"fader", "heddle/chair.preamp.gain", "", "Chair", 100, 50, 80, 200}})),
            wall_);
        const auto id = on(p)[0].id;
        auto made = on(with(copyAs(p, place_, {id}, "knob"), p));
        QCOMPARE(made.size(), std::size_t(2));
        QVERIFY(made[0].kind == "fader" && made[1].kind == "knob" && made[1].param == made[0].param &&
                made[1].text == "Chair");
        QVERIFY(made[1].x >= 192 && made[1].y == 50 && made[1].id != id);
        // At the right edge below it; where there is no room, over it, but on the page.
        p.surface("wall")->pages.change(0).plies.change(0).controls.change(0).x = 1200;
        made = on(with(copyAs(p, place_, {id}, "field"), p));
        QVERIFY(made[1].x == 1200 || made[1].x + made[1].width <= 1280);
        QVERIFY(made[1].y >= 262);
        p.surface("wall")->pages.change(0).plies.change(0).controls.change(0).y = 600;
        made = on(with(copyAs(p, place_, {id}, "knob"), p));
        QVERIFY(made[1].x + made[1].width <= 1280 && made[1].y + made[1].height <= 800);
        QVERIFY(!copyAs(p, place_, {id}, "toggle") && !copyAs(p, place_, {id}, "nothing"));
    }
    // Widths of "Council Hall" and of figures as the fonts' tables have them, summed by hand from letter_widths.h.
    void howWideWordsAre() {
        QVERIFY(std::abs(textWidth("0123", 100, false, true) - 240) < 1e-9);
        QVERIFY(std::abs(textWidth("II", 1000, false, false) - 498) < 1e-9);
        QVERIFY(std::abs(textWidth("II", 1000, true, false) - 560) < 1e-9);
        QVERIFY(textWidth("\u2192", 1000, false, false) == 1004 && textWidth("\u4e2d", 20, false, false) == 20);
        Mark m;
        m.kind = Mark::Kind::text, m.size = 20;
        auto set = setText(m, "II II II", 60, 28);
        QVERIFY(!set.cut && set.lines == std::vector<std::string>{"II II II"} && set.size == 20);
        set = setText(m, "II II II II II", 45, 30); // no room for two lines
        QVERIFY(set.cut && set.lines.size() == 1 && set.lines[0].size() > 3);
        QVERIFY(textWidth(set.lines[0], set.size, false, false) <= 45.5);
        set = setText(m, "II II II II II", 45, 120);
        QVERIFY(!set.cut && set.lines.size() == 2);
        set = setText(m, "II II II II II II II II II II II II", 20, 60); // more lines than it is high
        QVERIFY(set.cut && set.lines.size() > 2);
        set = setText(m, "IIIIIIIIII", 30, 28); // one long word: smaller letters, as far as they are read
        QVERIFY(set.size == 12 && set.lines.size() == 1);
        QVERIFY(!setText(m, "", 10, 10).cut);
    }
    void theDemoFits() {
        for (const auto& f : checkSurfaces(demo_))
            QVERIFY2(f.severity() == Severity::note && f.id() != "text-cut", (f.place + ": " + f.reason).c_str());
    }
    void roomsAreCopiedWithTheirSurfaces() {
        const auto copy = copyRoom(demo_, "council", demo_, "Small Hall");
        QVERIFY(bool(copy));
        QVERIFY(copy->surfaces.size() == 1 && copy->pictures.empty());
        const auto& s = copy->surfaces.front();
        QVERIFY(s.device != "council-slate" && copy->renewed.devices.count(s.device) && s.id != "council-slate");
        QCOMPARE(copy->scenes.size(),
                 std::size_t(std::count_if(demo_.scenes.begin(), demo_.scenes.end(),
                                           [](const auto& one) { return one.room == "council"; })));
        const auto p = withCopy(demo_, *copy);
        QVERIFY(p.surface(s.id) && p.surface("council-slate") &&
                *p.surface("council-slate") == *demo_.surface("council-slate"));
        // Scenes that came along are recalled by the copies of their buttons.
        std::size_t own = 0, stay = 0;
        for (const auto& page : s.pages)
            for (const auto& ply : page.plies)
                for (const auto& c : ply.controls)
                    if (const auto d = driveOf(p, c.param); d && d->kind == Drive::Kind::scene)
                        p.scene(d->param)->room == copy->room ? ++own : ++stay;
        QVERIFY(own >= 2);
        QCOMPARE(s.page("meeting")->plies[0].controls[0].text,
                 std::string("Small Hall")); // its title was the room's name
        const auto told = [&](const char* what) {
            return std::count_if(copy->renewed.list.begin(), copy->renewed.list.end(),
                                 [&](const auto& l) { return l.what == what; });
        };
        QVERIFY(told("surface") == 1 && std::size_t(told("scene")) == copy->scenes.size());
        // To another project its pictures come along; the clipboard brings both too.
        Project other;
        const auto there = copyRoom(demo_, "council", other, "");
        QVERIFY(there && there->pictures.count("council-hall.svg"));
        QVERIFY(withCopy(other, *there).assets.count("council-hall.svg"));
        std::vector<std::string> made;
        const auto pasted = pasteClip(other, clipOf(demo_, {"room:council"}), test::models(), "", {0, 0}, &made);
        QVERIFY2(bool(pasted), pasted ? "" : pasted.error().text().c_str());
        QVERIFY(pasted->make(other)->surfaces.size() == 1);
    }
    void aProcessorInTheRoomIsFollowed() {
        auto p = demo_; // one whose processor stands in it
        for (std::size_t i = 0; i < p.devices.size(); ++i)
            if (p.devices[i].id == "heddle")
                p.devices.change(i).room = "council", p.devices.change(i).place = {};
        p.surface("council-slate")->pages.change(0).plies.change(0).controls.change(0).shown =
            "heddle/chair.preamp.gain > -20";
        const auto copy = copyRoom(p, "council", p, "Small Hall");
        QVERIFY(bool(copy));
        const auto after = withCopy(p, *copy);
        const auto& s = copy->surfaces.front();
        for (const auto& page : s.pages)
            for (const auto& ply : page.plies)
                for (const auto& c : ply.controls) {
                    QVERIFY2(c.param.rfind("heddle/", 0) != 0, c.param.c_str());
                    if (!c.param.empty())
                        QVERIFY2(bool(controlDrive(after, c.param)), c.param.c_str());
                }
        const auto& shown = s.pages[0].plies[0].controls[0].shown;
        QVERIFY(shown.rfind("heddle/", 0) != 0 && shown.find(".preamp.gain > -20") != std::string::npos);
        for (const auto& scene : copy->scenes)
            for (const auto& [path, _] : scene.values)
                QVERIFY2(path.rfind("heddle/", 0) != 0, path.c_str());
    }
};

LOOM_TEST(tst_bundle, TestBundle)
#include "tst_bundle.moc"
