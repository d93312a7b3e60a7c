// Linked lanes, groups and order, and what changed since then.
#ifndef Q_MOC_RUN
#include "demo_hall.h"
#include "file/project_json.h"
#include "findings/findings.h"
#include "model/history.h"
#include "models.h"
#include "program/compare.h"
#include "program/lane_edit.h"
#include "program/links.h"
#include "program/marks.h"
#include "program/phrase.h"
#include "program/program_edit.h"
#endif
#include "test.h"

using namespace loom;
using namespace loom::project;
using namespace loom::test;
using engine::layOut;
using engine::Program;

class TestLinks : public QObject {
    Q_OBJECT
    const std::vector<std::string> three_{"delegate-2", "delegate-3", "delegate-4"};
    Program linked() {
        const auto& p = *hall().program;
        return *linkLanes(layOut(p), p, three_, "Delegates");
    }

  private slots:
    // Each block takes what the first, second ... of its kind in the chain had; others stay as they are.
    void settingsArePastedKindByKind() {
        Program p = *hall().program;
        for (const char* kind : {"level", "level", "delay"})
            p = insertBlock(p, kind, {layOut(p).laneOf("delegate-2")->beads.back(), 0}, "delegate-2")->program;
        const auto beads = layOut(p).laneOf("delegate-2")->beads;
        std::vector<std::string> levels;
        for (const auto& b : beads)
            if (p.find(b)->kind == "level")
                levels.push_back(b);
        QCOMPARE(levels.size(), std::size_t(2));
        const std::vector<engine::Block> chain{{"x", "level", "", {}, {{"gain", -3}}},
                                               {"y", "gate", "", {}, {{"threshold", -30}}},
                                               {"z", "level", "", {}, {{"gain", -7}, {"mute", 1}}},
                                               {"w", "eq", "", {{"bands", 12}}, {{"2.gain", 5}, {"12.gain", 4}}}};
        const auto pasted = pasteSettings(layOut(p), p, {"delegate-2"}, chain);
        QVERIFY(bool(pasted));
        using Values = std::map<std::string, double>;
        QVERIFY(pasted->find(levels[0])->values == (Values{{"gain", -3}}));
        QVERIFY(pasted->find(levels[1])->values == (Values{{"gain", -7}, {"mute", 1}}));
        QVERIFY(pasted->find("delegate-2.eq")->values == (Values{{"2.gain", 5}})); // it has no twelfth band
        QVERIFY(pasted->find("delegate-2.preamp")->values == p.find("delegate-2.preamp")->values);
        QVERIFY(*pasted->find("delegate-3.eq") == *p.find("delegate-3.eq"));
        QVERIFY(!pasteSettings(layOut(p), p, {"delegate-2"}, {chain[1]})); // no gate there
        QVERIFY(!pasteSettings(layOut(p), p, {"nobody"}, chain));
    }
    void linkingOverwritesNothing() {
        const auto& p = *hall().program;
        const auto n = linked();
        for (const auto& b : p.blocks)
            QCOMPARE(n.find(b.id)->values, b.values);
        QVERIFY(isApart(*n.find("delegate-4.preamp"), "gain")); // 35 beside 36
        QVERIFY(!isApart(*n.find("delegate-3.preamp"), "gain"));
        QCOMPARE(linkedWith(n, "delegate-3"), (std::vector<std::string>{"delegate-2", "delegate-4"}));
        QCOMPARE(withLinked(n, {"delegate-3", "chair"}).size(), std::size_t(4));
        QVERIFY(!linkLanes(layOut(p), p, {"chair"}, "x") && !linkLanes(layOut(p), p, {"chair", "loop"}, "x") &&
                !linkLanes(layOut(p), p, {"chair", "hall"}, "x"));
    }
    void valuesReachAllButWhatIsApart() {
        const auto n = linked();
        const auto layout = layOut(n);
        using Places = std::vector<std::string>;
        QCOMPARE(reachOf(layout, n, {"delegate-3"}, "delegate-3.highpass", "corner"),
                 (Places{"delegate-3.highpass.corner", "delegate-2.highpass.corner", "delegate-4.highpass.corner"}));
        QCOMPARE(reachOf(layout, n, {"delegate-3"}, "delegate-3.preamp", "gain"),
                 (Places{"delegate-3.preamp.gain", "delegate-2.preamp.gain"}));
        QCOMPARE(reachOf(layout, n, {"delegate-4"}, "delegate-4.preamp", "gain"), (Places{"delegate-4.preamp.gain"}));
        QCOMPARE(reachOf(layout, n, {"chair"}, "chair.preamp", "gain"), (Places{"chair.preamp.gain"}));
        // Chosen by hand, a lane gets it although it is apart.
        QCOMPARE(reachOf(layout, n, {"delegate-3", "delegate-4"}, "delegate-3.preamp", "gain").size(), std::size_t(3));
    }
    void breakingAwayAndBack() {
        const auto n = linked();
        const auto layout = layOut(n);
        auto away = breakAway(layout, n, "delegate-3.highpass", "corner");
        QVERIFY(away && isApart(*away->find("delegate-3.highpass"), "corner"));
        away->find("delegate-3.highpass")->values["corner"] = 300;
        const auto back = relink(layout, *away, "delegate-3.highpass", "corner");
        QVERIFY(back && !isApart(*back->find("delegate-3.highpass"), "corner"));
        QCOMPARE(valueOf(*back, "delegate-3.highpass", "corner"), valueOf(n, "delegate-2.highpass", "corner"));
        const auto lane = relinkLane(layout, n, "delegate-4");
        QVERIFY(bool(lane));
        QCOMPARE(valueOf(*lane, "delegate-4.preamp", "gain"), 36.0);
        QVERIFY(lane->find("delegate-4.preamp")->marks.empty());
        QVERIFY(!relink(layout, n, "delegate-3.highpass", "corner") && !relinkLane(layout, n, "chair"));
        QVERIFY(!breakAway(layout, n, "chair.eq", "1.gain") && !breakAway(layout, n, "delegate-3.eq", "nonsense"));
        const auto free = unlinkLanes(layout, n, three_);
        QCOMPARE(free, *hall().program);
    }
    void whatIsInsertedReachesLinkedLanesAtTheSamePlace() {
        Device d = hall();
        d.program = linked();
        const auto said = speak(d, withLinked(*d.program, {"delegate-3"}), "delegate-3.highpass", "gate");
        QVERIFY(bool(said));
        const auto layout = layOut(said->program);
        for (const auto& l : three_)
            QCOMPARE(said->program.find(layout.laneOf(l)->beads[2])->kind, std::string("gate"));
        QCOMPARE(said->block, layout.laneOf("delegate-3")->beads[2]);
        QCOMPARE(layout.laneOf("delegate-5")->beads.size(), std::size_t(3));
    }
    void groupsAndOrder() {
        const auto& p = *hall().program;
        QCOMPARE(stemOf("Delegate 12"), std::string("Delegate"));
        QCOMPARE(stemOf("7"), std::string());
        const auto byName = groupAllLanes(p, GroupBy::name);
        QCOMPARE(markOf(*byName.find("delegate-3"), "group"), std::string("Delegate"));
        QVERIFY(byName.find("chair")->marks.empty());
        QCOMPARE(markOf(*byName.find("ceiling-2"), "group"), std::string("Ceiling zone"));
        QCOMPARE(markOf(*groupAllLanes(p, GroupBy::port).find("chair"), "group"), std::string("Mic and line inputs"));
        QCOMPARE(groupAllLanes(byName, GroupBy::none), p);
        const auto folded = foldGroups(byName, {"delegate-3"}, true);
        QVERIFY(folded && layOut(*folded).laneOf("delegate-8")->folded && !layOut(*folded).laneOf("ceiling-1")->folded);
        QCOMPARE(*foldGroups(*folded, {"delegate-1"}, false), byName);
        QVERIFY(!foldGroups(p, {"chair"}, true));
        const auto order = [](const Program& x) {
            std::string all;
            for (const auto& l : layOut(x).lanes)
                if (l.source())
                    all += l.end == "chair" ? "C" : l.end.back() == 'd' ? "F" : std::string(1, l.end.back());
            return all;
        };
        QCOMPARE(order(p), std::string("C12345678Flr"));
        QCOMPARE(order(*moveLanes(layOut(p), p, {"far-end"}, -1)), std::string("C1234567F8lr"));
        QCOMPARE(order(*moveLanes(layOut(p), p, {"delegate-1", "delegate-2"}, -1)), std::string("12C345678Flr"));
        QVERIFY(!moveLanes(layOut(p), p, {"chair"}, -1) && !moveLanes(layOut(p), p, {"hall"}, 1));
        // Past a group as a whole, and a group past a lane; a lane does not leave its group.
        QCOMPARE(order(*moveLanes(layOut(byName), byName, {"chair"}, 1)), std::string("12345678CFlr"));
        QVERIFY(!moveLanes(layOut(byName), byName, {"delegate-8"}, 1));
        QCOMPARE(order(*moveLanes(layOut(byName), byName, {"delegate-8"}, -1)), std::string("C12345687Flr"));
    }
    void marksSurviveAndAreNotTheSound() {
        Project p = demo();
        p.devices.change(0).program = linked();
        p.devices.change(0).known.kept = *hall().program;
        p.dismissed = {{"goes-nowhere", "heddle", "spare", "for the next phase"}};
        const auto back = projectFromJson(toJson(p), test::models());
        QVERIFY(back && back->devices[0].program == p.devices[0].program && back->dismissed == p.dismissed &&
                back->devices[0].known.kept == p.devices[0].known.kept);
    }
    void whatChangedSinceThen() {
        const auto& then = *hall().program;
        const auto layout = layOut(then);
        Program now = then;
        now.find("chair.eq")->values["3.gain"] = 2;
        now.find("chair.preamp")->values.erase("gain"); // back to the default counts too
        now.find("loop.delay")->values["time"] = 9;
        QCOMPARE(changedSince(*now.find("chair.eq"), then), (std::vector<std::string>{"3.gain"}));
        QCOMPARE(changedSince(*now.find("chair.preamp"), then), (std::vector<std::string>{"gain"}));
        QCOMPARE(countChanged(layout, now, then, ""), 3);
        QCOMPARE(countChanged(layout, now, then, "chair"), 2);
        const auto mixed = withChainOf(layout, now, then, "chair");
        QCOMPARE(countChanged(layout, mixed, then, ""), 1);
        QCOMPARE(valueOf(mixed, "loop.delay", "time"), 9.0);
        QCOMPARE(restoreBlock(now, "chair.eq", &then)->find("chair.eq")->values, then.find("chair.eq")->values);
        QVERIFY(restoreBlock(now, "chair.eq", nullptr)->find("chair.eq")->values.empty());
        QVERIFY(!restoreBlock(now, "nobody", nullptr));
    }
    void findingsMayBeLeftForAReason() {
        Project p = demo();
        erase_if(p.wires, [](const auto&) { return true; }); // so that nothing depends on one of them
        erase_if(p.dismissed, [](const auto& l) { return l.code == "one-fault"; });
        auto& program = *p.devices.change(0).program;
        program.blocks.push_back({"spare", "source", "Spare", {}, {}, {{"port", "in 15"}}});
        auto found = check(p);
        std::erase_if(found, [](const auto& f) { return f.dismissed(); });
        QCOMPARE(found.size(), std::size_t(1));
        QCOMPARE(found[0].room, std::string("Council Hall"));
        History history(p);
        QVERIFY(history.run(leaveFinding({found[0].id(), found[0].device, found[0].block, "for the next phase"})));
        const auto isLeft = [&] {
            const auto now = check(p);
            return std::any_of(now.begin(), now.end(), [](const auto& f) { return f.because == "for the next phase"; });
        };
        QVERIFY(isLeft());
        history.undo();
        QVERIFY(!isLeft());
        history.redo();
        QVERIFY(isLeft());
        QVERIFY(history.run(leaveFinding({found[0].id(), found[0].device, found[0].block, ""})));
        QVERIFY(!isLeft() && p.dismissed.size() == 1);
        QVERIFY(!history.run(leaveFinding({"x", "y", "z", std::string(3000, 'a')})));
    }
};
LOOM_TEST(tst_links, TestLinks)
#include "tst_links.moc"
