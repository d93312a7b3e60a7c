// Undo and redo over thousands of edits of every kind, and what views are told of each.
#ifndef Q_MOC_RUN
#include "file/project_json.h"
#include "file/store.h"
#include "model/history.h"
#include "models.h"
#include "program/program_edit.h"
#include "rooms/plan_items.h"
#include "rooms/room_edit.h"
#include "voicings/voicing_edit.h"
#include "voicings/voicing_fields.h"
#include <random>
#endif
#include "test.h"

using namespace loom;
using namespace loom::project;
using Kind = Change::Kind;

class TestHistory : public QObject {
    Q_OBJECT
    std::mt19937 dice_{17};
    std::size_t any(std::size_t n) { return dice_() % std::max<std::size_t>(n, 1); }
    template <class Items> const auto& oneOf(const Items& items) { return items[any(items.size())]; }
    std::string word() { return "w" + std::to_string(dice_() % 1000); }
    static Project demo() { return *test::load(LOOM_SOURCE_DIR "/demo/marram-point"); }

    const Device& processor(const Project& p) {
        std::vector<const Device*> all;
        for (const auto& d : p.devices)
            if (d.program && !d.program->connections.empty())
                all.push_back(&d);
        return *oneOf(all);
    }
    std::pair<std::string, double> aValue(const engine::Program& program) { // "block.parameter", within its range
        for (;;) {
            const auto& b = oneOf(program.blocks);
            const engine::BlockView view(b);
            if (!view.kind || view.table->specs().empty())
                continue;
            const auto& spec = oneOf(view.table->specs());
            return {b.id + "." + spec.id, spec.min + (spec.max - spec.min) * static_cast<double>(any(100)) / 99};
        }
    }
    std::string anItem(const Project& p) {
        for (;;)
            if (const auto items = planItems(p, oneOf(p.buildings)); !items.empty())
                return oneOf(items).key;
    }
    // An edit of any kind; many of them are refused, as people's are.
    Edit anEdit(const Project& p) {
        const auto& d = processor(p);
        const auto [address, value] = aValue(*d.program);
        const auto structure = [&](const Result<engine::Program>& next) {
            return next ? setProgram(d.id, *next, "Structure") : Edit{};
        };
        switch (any(18)) {
        case 0:
        case 1:
            return setValue(p, d.id + "/" + address, value, any(2) > 0);
        case 2: {
            const auto other = aValue(*d.program);
            return setValues(d.id, {{address, value}, other}, "Values", any(2) > 0);
        }
        case 3: {
            const auto made = insertBlock(*d.program, any(2) ? "eq" : "level", oneOf(d.program->connections).from);
            return made ? setProgram(d.id, made->program, "Insert") : Edit{};
        }
        case 4:
            if (d.program->blocks.size() < 12)
                return {};
            return structure(removeBlock(*d.program, oneOf(d.program->blocks).id));
        case 5:
            return structure(
                drawThread(*d.program, oneOf(d.program->connections).from, oneOf(d.program->connections).to));
        case 6:
            return structure(moveBlock(*d.program, oneOf(d.program->blocks).id, any(2) ? 1 : -1));
        case 7:
            return changeDevice(oneOf(p.devices).id, "Notes", [w = word()](Device& one) { one.notes = w; });
        case 8: {
            const std::string key = anItem(p);
            const auto fields = fieldsOf(p, key);
            const auto& f = oneOf(fields);
            auto set = setField(p, {key}, f.id, f.choices.empty() ? std::to_string(any(40)) : oneOf(f.choices));
            return set ? *set : refused(set.error());
        }
        case 9:
            return moveItems(p, {anItem(p), anItem(p)}, static_cast<double>(any(9)) - 4,
                             static_cast<double>(any(9)) - 4);
        case 10:
            return any(8) || p.devices.size() < 30 ? mirrorItems(p, {anItem(p)}) : removeItems(p, {anItem(p)});
        case 11:
            return p.devices.size() < 100 ? duplicateItems(p, {anItem(p)}, 1, 1, nullptr) : Edit{};
        case 12:
            return leaveFinding({word(), oneOf(p.devices).id, "", any(2) ? "so be it" : ""});
        case 13:
            return renameProject(word());
        case 14:
            return addAsset(word() + ".txt", std::vector<char>(any(50), 'x'));
        case 15: {
            if (p.voicings.empty())
                return {};
            Voicing v = oneOf(p.voicings);
            v.across = 30 + static_cast<double>(any(200));
            auto then = withVoicing(p, v);
            return then ? editSpeakers(p, *then, "Voicing", any(2) > 0) : refused(then.error());
        }
        case 16: {
            Device n = oneOf(p.devices);
            if (n.program || p.devices.size() > 100)
                return setDevices({{n.id, n.program ? std::optional(n) : std::nullopt}}, "Device");
            n.id = "new-" + word();
            return setDevices({{n.id, n}}, "Device");
        }
        default:
            return together({renameProject(word()), setValue(p, d.id + "/" + address, value)}, "Both");
        }
    }
    static std::size_t stampOf(const Project& p) { // of what it holds, not of what it shares
        std::size_t files = 0;
        for (const auto& [name, bytes] : p.assets)
            files = files * 31 + std::hash<std::string>()(name) + bytes.size();
        return std::hash<std::string>()(toJson(p).dump()) ^ files;
    }
    static Change run(Project& p, const Edit& edit) {
        History h(p);
        const auto change = h.run(edit);
        if (!change)
            qWarning("%s", change.error().text().c_str());
        return change ? *change : Change{Kind::project, "refused"};
    }
  private slots:
    void tenThousandEditsAndBack() {
        Project p = demo();
        History h(p);
        std::map<int, std::size_t> stamps; // of states now and then, taken before anything later could spoil them
        std::vector<Project> states{p};    // the same as values
        int refusals = 0;
        while (states.size() <= 10000) {
            if (stamps.size() * 100 < states.size())
                stamps[static_cast<int>(states.size()) - 1] = stampOf(p);
            const Edit edit = anEdit(p);
            if (!edit)
                continue;
            const auto before = p;
            h.endMerge();
            const bool done = bool(h.run(edit));
            QVERIFY(done || p == before);
            refusals += !done;
            if (done)
                states.push_back(p);
        }
        QVERIFY2(refusals > 50 && refusals < 10000, qPrintable(QString::number(refusals)));
        const auto last = stampOf(p);
        for (int i = 9999; i >= 0; --i) {
            h.undo();
            QVERIFY2(p == states[static_cast<std::size_t>(i)], qPrintable(QString::number(i)));
            if (stamps.count(i))
                QCOMPARE(stampOf(p), stamps[i]);
        }
        QVERIFY(!h.canUndo());
        QCOMPARE(stampOf(p), stampOf(demo()));
        for (std::size_t i = 1; i < states.size(); ++i) {
            h.redo();
            QVERIFY(p == states[i]);
        }
        QVERIFY(!h.canRedo());
        QCOMPARE(stampOf(p), last);
    }
    // Views are told the narrowest thing that covers what changed.
    void whatChanged() {
        Project p = demo();
        auto c = run(p, setValue(p, "heddle/delegate-3.eq.2.gain", -3));
        QVERIFY(c.kind == Kind::value && c.device == "heddle" && c.block == "delegate-3.eq");
        c = run(p, setValues("heddle", {{"delegate-3.eq.2.gain", 1}, {"delegate-3.eq.3.gain", 1}}, "x"));
        QVERIFY(c.kind == Kind::value && c.block == "delegate-3.eq");
        c = run(p, setValues("heddle", {{"delegate-3.eq.2.gain", 2}, {"chair.eq.2.gain", 2}}, "x"));
        QVERIFY(c.kind == Kind::program && c.device == "heddle" && c.block.empty());
        auto program = *p.device("heddle")->program;
        program.find("chair.eq")->marks["colour"] = "plum";
        c = run(p, setProgram("heddle", program, "x"));
        QVERIFY(c.kind == Kind::program && c.device == "heddle");
        program.find("chair.eq")->values["2.gain"] = 5, program.connections.pop_back();
        QVERIFY(run(p, setProgram("heddle", program, "x")).kind == Kind::program);
        for (const auto& how :
             {+[](engine::Program& q) { ++q.revision; }, +[](engine::Program& q) { q.extra["x"] = "1"; },
              +[](engine::Program& q) {
                  q.blocks.push_back({"more", "level", ""});
              }}) {
            how(program), program.find("chair.eq")->values["2.gain"] += 1;
            QVERIFY(run(p, setProgram("heddle", program, "x")).kind == Kind::program);
        }
        c = run(p, setFile("heddle", "chair.eq", "file", "a.txt", {'a'}));
        QVERIFY(c.kind == Kind::program && c.device == "heddle" && p.assets.count("a.txt"));
        c = run(p, changeDevice("heddle", "x", [](Device& d) { d.notes = "n", d.place.x += 1; }));
        QVERIFY(c.kind == Kind::device && c.device == "heddle");
        Place place = p.device("column-l")->place;
        place.x += 0.1;
        QVERIFY(run(p, placeDevices({{"column-l", place}}, "x")).kind == Kind::survey);
        QVERIFY(run(p, moveItems(p, {"room:council"}, 0.5, 0)).kind == Kind::survey);
        QVERIFY(run(p, addAsset("plan.svg", {'a'})).kind == Kind::survey);
        const Device equal = *p.device("heddle"); // told to be what it is
        auto further = *p.device("column-l");
        further.place.x += 0.1;
        QVERIFY(run(p, setDevices({{"heddle", equal}, {"column-l", further}}, "x")).kind == Kind::survey);
        auto moved = *p.device("column-l"), named = *p.device("column-r");
        moved.place.x += 0.1, named.name += " B";
        c = run(p, setDevices({{"column-l", moved}, {"column-r", named}}, "x"));
        QVERIFY(c.kind == Kind::project && c.device.empty());
        auto buildings = p.buildings;
        buildings.changeEach([](Building& b) { b.name += "!"; });
        named.name += "C";
        QVERIFY(run(p, together({setBuildings(buildings, "x"), setDevices({{"column-r", named}}, "x")}, "x")).kind ==
                Kind::project);
        QVERIFY(run(p, renameProject("x")).kind == Kind::project);
        QVERIFY(run(p, leaveFinding({"a", "b", "c", "d"})).kind == Kind::project);
        QVERIFY(run(p, setDevices({{"column-r", std::nullopt}}, "x")).kind == Kind::project);
        const auto before = p;
        History h(p);
        QVERIFY(bool(h.run(setValue(p, "heddle/chair.eq.2.gain", -1))));
        c = h.undo();
        QVERIFY(c.kind == Kind::value && c.block == "chair.eq" && p == before && h.redo().block == "chair.eq");
    }
    // A drag is one step; another thing dragged is another step.
    void stepsJoin() {
        Project p = demo();
        History h(p);
        const auto steps = [&] {
            int n = 0;
            for (; h.canUndo(); ++n)
                h.undo();
            return n;
        };
        const auto place = [&](const char* id, double x) {
            Place to = p.device(id)->place;
            to.x = x;
            return placeDevices({{id, to}}, "Move", true);
        };
        for (const double x : {1, 2, 3})
            QVERIFY(bool(h.run(place("column-l", x))));
        for (const double x : {1, 2, 3})
            QVERIFY(bool(h.run(place("column-r", x))));
        QCOMPARE(steps(), 2);
        const auto set = [&](const char* param, double v) { return setValues("heddle", {{param, v}}, "x", true); };
        for (const double v : {1, 2, 3})
            QVERIFY(bool(h.run(set("chair.eq.2.gain", v))) && bool(h.run(setBuildings(p.buildings, "x", true))));
        QCOMPARE(steps(), 6);
        for (const double v : {1, 2, 3})
            QVERIFY(bool(h.run(set("chair.eq.2.gain", v))));
        h.markSaved(); // what is saved stays a state that undo reaches
        QVERIFY(bool(h.run(set("chair.eq.2.gain", 4))));
        h.undo();
        QVERIFY(h.isSaved());
        QCOMPARE(steps(), 1);
    }
    // What an edit carries is what it changed; what became different meanwhile stays.
    void betweenCarriesOnlyWhatDiffers() {
        const Project before = demo();
        Project after = before, now = before;
        after.device("column-l")->name = "Left", after.assets["new.txt"] = std::vector<char>{'n'};
        erase_if(after.devices, [](const Device& d) { return d.id == "column-r"; });
        now.device("heddle")->notes = "meanwhile", now.assets["own.txt"] = std::vector<char>{'o'};
        const auto files = now.assets.size();
        run(now, editBetween(before, after, "x"));
        QVERIFY(now.device("column-l")->name == "Left" && !std::as_const(now).device("column-r"));
        QVERIFY(now.device("heddle")->notes == "meanwhile" && now.assets.size() == files + 1);
        QVERIFY(!editBetween(before, before, "x"));
        // A file that stayed as it was is not put back over what it became meanwhile; one that changed is.
        now.assets["new.txt"] = std::vector<char>{'l', 'a', 't', 'e', 'r'};
        Project third = after;
        third.name = "x", third.assets["speech.txt"] = std::vector<char>{'s'};
        run(now, editBetween(after, third, "x"));
        QVERIFY(now.assets.at("new.txt").size() == 5 && now.assets.at("speech.txt").size() == 1);
        Project fourth = third;
        fourth.assets["speech.txt"] = std::vector<char>{'t', 'u'};
        run(now, editBetween(third, fourth, "x"));
        QCOMPARE(now.assets.at("speech.txt").size(), std::size_t(2));
    }
    // Two such edits join only where they change the same devices.
    void betweenJoinsByDevice() {
        Project p = demo();
        History h(p);
        const auto rename = [&](const char* device, const char* name) {
            Project after = p;
            after.device(device)->name = name;
            QVERIFY(bool(h.run(editBetween(p, after, "Rename", true))));
        };
        rename("column-l", "A");
        rename("column-l", "B");
        rename("column-r", "C");
        h.undo();
        QCOMPARE(std::as_const(p).device("column-l")->name, std::string("B"));
        h.undo();
        QVERIFY(!h.canUndo() && p == demo());
    }
    void proofsAreNoSteps() { // they tell what they were made on, and stay
        Project p = demo();
        History history(p);
        const auto proof = [](const char* when) {
            return Edit{"Proof", [when](Project now) -> Result<Project> {
                            Proof one;
                            one.space = "council", one.when = when, one.figures["echo"] = -41.5;
                            now.proofs = {};
                            now.proofs.push_back(one);
                            return now;
                        }};
        };
        QVERIFY(bool(history.note(proof("first"))));
        QVERIFY(bool(history.run(renameProject("Another name"))));
        QVERIFY(bool(history.note(proof("second"))));
        (void)history.undo();
        QVERIFY(p.name != "Another name" && p.proofs.size() == 1 && p.proofs[0].when == "second");
        (void)history.redo();
        QVERIFY(p.name == "Another name" && p.proofs[0].when == "second");
    }
    void findingsAreLeftOneByOne() {
        Project p = demo();
        run(p, leaveFinding({"hot", "heddle", "a", "later"}));
        run(p, leaveFinding({"hot", "heddle", "b", "later"}));
        run(p, leaveFinding({"hot", "column-l", "a", "later"}));
        run(p, leaveFinding({"cold", "heddle", "a", "later"}));
        QCOMPARE(p.dismissed.size(), demo().dismissed.size() + 4);
        run(p, leaveFinding({"hot", "heddle", "a", ""}));
        QCOMPARE(p.dismissed.size(), demo().dismissed.size() + 3);
        QVERIFY(p.dismissed.back().code == "cold");
    }
    void valuesNeedAProgram() {
        Project p = demo();
        for (const char* device : {"nobody", "column-l"})
            QVERIFY(!History(p).run(setValues(device, {{"eq.2.gain", 1}}, "x")));
    }
    // Only what differs is checked again: error that was there before does not stop other work.
    void onlyWhatDiffersIsChecked() {
        Project p = demo();
        p.device("column-l")->place.x = 99999;
        QVERIFY(bool(History(p).run(renameProject("x"))));
        const auto refused = History(p).run(changeDevice("column-l", "x", [](Device& d) { d.place.y = 99999; }));
        QVERIFY(!refused && refused.error().place.find(p.device("column-l")->name) != std::string::npos);
    }
};

LOOM_TEST(tst_history, TestHistory)
#include "tst_history.moc"
