// Where sound is sent: threads and mixers, mix-minus, blocks that change places and ports.
#ifndef Q_MOC_RUN
#include "demo_hall.h"
#include "engine/origin.h"
#include "engine/schedule.h"
#include "program/lane_edit.h"
#include "program/program_edit.h"
#include "program/routes.h"
#endif
#include "test.h"

using namespace loom;
using namespace loom::project;
using namespace loom::test;
using engine::PortRef;
using engine::Program;

class TestRoutes : public QObject {
    Q_OBJECT
    static Program ends(int ins, int outs) {
        Program p;
        for (int i = 1; i <= ins; ++i)
            p.blocks.push_back({"in-" + std::to_string(i),
                                "source",
                                "In " + std::to_string(i),
                                {},
                                {},
                                {{"port", "in " + std::to_string(i)}}});
        for (int o = 1; o <= outs; ++o)
            p.blocks.push_back({"out-" + std::to_string(o),
                                "destination",
                                "Out " + std::to_string(o),
                                {},
                                {},
                                {{"port", "out " + std::to_string(o)}}});
        return p;
    }
    static std::size_t mixers(const Program& p) {
        return static_cast<std::size_t>(
            std::count_if(p.blocks.begin(), p.blocks.end(), [](const auto& b) { return b.kind == "matrix"; }));
    }

  private slots:
    void oneToOneIsAThread() {
        const auto p = routeAll(ends(2, 2), {"in-1"}, {"out-2"}, 0);
        QVERIFY(p && mixers(*p) == 0);
        QCOMPARE(p->into({"out-2", 0})->from, (PortRef{"in-1", 0}));
    }
    void whatIsHeardAlreadyStays() { // a second lane to a destination that a thread feeds: both are mixed
        auto p = routeAll(ends(2, 1), {"in-1"}, {"out-1"}, 0);
        p = routeAll(*p, {"in-2"}, {"out-1"}, -6);
        QVERIFY(p && mixers(*p) == 1);
        QVERIFY(std::abs(gainDb(*p, "in-1", "out-1")) < 0.01);
        QVERIFY(std::abs(gainDb(*p, "in-2", "out-1") + 6) < 0.01);
        // A third grows the same mixer.
        auto q = ends(3, 1);
        q.blocks.push_back(*p->find("matrix"));
        q.connections = p->connections;
        const auto more = routeAll(q, {"in-3"}, {"out-1"}, 0);
        QVERIFY(more && mixers(*more) == 1);
        QCOMPARE(engine::inputsOf(*more, *more->find("matrix")), 3);
        QVERIFY(std::abs(gainDb(*more, "in-3", "out-1")) < 0.01);
        QVERIFY(std::abs(gainDb(*more, "in-2", "out-1") + 6) < 0.01);
    }
    void inOrder() {
        const auto p = routeInOrder(ends(3, 3), {"in-1", "in-2", "in-3"}, {"out-2", "out-3"}, 0);
        QVERIFY(bool(p));
        QCOMPARE(p->into({"out-2", 0})->from.block, std::string("in-1"));
        QCOMPARE(p->into({"out-3", 0})->from.block, std::string("in-2"));
        QVERIFY(!p->into({"out-1", 0}));
    }
    void manyToManyThroughTheHall() {
        const auto& p = *hall().program;
        const auto n = routeAll(p, {"chair", "far-end"}, {"loop", "far-send"}, -3);
        QVERIFY(n && mixers(*n) == 1 && n->blocks.size() == p.blocks.size());
        QCOMPARE(valueOf(*n, "hall", "1.6"), -3.0);
        QCOMPARE(valueOf(*n, "hall", "10.5"), -3.0);
        QVERIFY(!routeAll(p, {"loop"}, {"loop"}, 0)); // nothing leaves a destination
        QVERIFY(!routeAll(p, {"chair"}, {}, 0));
        const auto none = routeLanes(p, {"chair"}, "nowhere*", 0);
        QVERIFY(!none && none.error().message.find("nowhere*") != std::string::npos);
    }
    void aLoopIsRefusedWithItsPath() {
        Program p = ends(1, 1);
        p.blocks.push_back({"a", "matrix", "", {{"inputs", 2}, {"outputs", 2}}, {{"1.1", 0}}});
        p.blocks.push_back({"duck", "ducker", ""});
        p.connections = {{{"in-1", 0}, {"a", 0}}, {{"a", 0}, {"out-1", 0}}, {{"a", 1}, {"duck", 0}}};
        const auto loop = drawThread(p, {"duck", 0}, {"a", 1});
        QVERIFY(!loop);
        QVERIFY2(loop.error().message.find("duck \u2192 a") != std::string::npos, loop.error().message.c_str());
    }
    void ownSoundIsLeftOut() { // the far end hears everybody but itself
        Program p = *hall().program;
        auto& mixer = *p.find("hall");
        mixer.values["10.5"] = 0, mixer.values.erase("1.5"); // wrongly: itself, and not the chair
        const auto m = mixMinus(p, "hall", -1);
        QVERIFY(bool(m));
        QVERIFY(gainDb(m->program, "far-end", "far-send") < -150);
        QVERIFY(gainDb(m->program, "chair", "far-send") > 0);
        QVERIFY(gainDb(m->program, "programme-l", "far-send") > -30); // opened, at 0 dB of the mixer
        QCOMPARE(m->closed, 2);                                       // and the recorder's own line, net 1
        QCOMPARE(valueOf(m->program, "hall", "2.5"), 0.0);            // kept as it was
        QVERIFY(std::find(m->pairs.begin(), m->pairs.end(), "Far end is left out of Far-end send") != m->pairs.end());
        QVERIFY(!mixMinus(p, "chair", -1));
        QVERIFY(!mixMinus(p, "hall", 0)); // a ceiling has no sound of its own
    }
    void originsFollowLanesThroughBlocksThatKeepThemApart() {
        Program p = ends(3, 1);
        p.blocks.push_back({"echo", "echo", "", {{"channels", 2}}});
        p.blocks.push_back({"mix", "matrix", "", {{"inputs", 2}, {"outputs", 1}}, {{"1.1", 0}}});
        p.connections = {{{"in-1", 0}, {"echo", 0}},
                         {{"in-2", 0}, {"echo", 1}},
                         {{"in-3", 0}, {"echo", 2}},
                         {{"echo", 0}, {"mix", 0}},
                         {{"mix", 0}, {"out-1", 0}}};
        const auto own = engine::origins(p);
        QCOMPARE(own.at({"echo", 0}), std::string("in-1"));
        QCOMPARE(own.at({"echo", 1}), std::string("in-2"));
        QVERIFY(!own.count({"mix", 0}));
    }
    void aBlockIsSwappedKeepingWhatMatches() {
        Program p = *hall().program;
        p.find("delegate-3.highpass")->marks["apart"] = "corner";
        const auto s = swapBlock(p, "delegate-3.highpass", "lowpass");
        QVERIFY(bool(s));
        QCOMPARE(valueOf(s->program, s->block, "corner"), valueOf(p, "delegate-3.highpass", "corner"));
        QCOMPARE(s->program.into({"delegate-3.eq", 0})->from.block, s->block);
        QCOMPARE(s->program.connections.size(), p.connections.size());
        QVERIFY(!s->program.find("delegate-3.highpass"));
        QVERIFY(engine::compile(s->program, 48000, {}));
        const auto to = swapBlock(p, "delegate-3.eq", "level"); // nothing of an equaliser fits a level but its place
        QVERIFY(to && !to->lost.empty());
        const auto wide = swapBlock(p, "hall", "selector"); // fewer of some ports: what has none is named
        if (wide)
            QVERIFY(engine::compile(wide->program, 48000, {}));
        QVERIFY(!swapBlock(p, "nobody", "level") && !swapBlock(p, "chair.eq", "of-tomorrow"));
    }
    void portsAreExchanged() {
        const auto& p = *hall().program;
        const auto n = usePort(p, "chair", "in 5");
        QVERIFY(bool(n));
        QCOMPARE(n->find("chair")->texts.at("port"), std::string("in 5"));
        QCOMPARE(n->find("delegate-4")->texts.at("port"), std::string("in 1"));
        const auto free = usePort(p, "chair", "in 16");
        QVERIFY(free && free->find("delegate-4")->texts.at("port") == "in 5");
        QVERIFY(!usePort(p, "chair.eq", "in 5"));
    }
    void beadsMoveToOtherLanes() {
        const auto& p = *hall().program;
        const auto layout = engine::layOut(p);
        // One, to the middle of another source's lane.
        auto m = moveBeads(layout, p, {"chair.eq"}, "delegate-1", 1, false);
        QVERIFY(bool(m));
        auto now = engine::layOut(m->program);
        QCOMPARE(now.laneOf("chair")->beads, (std::vector<std::string>{"chair.preamp", "chair.highpass"}));
        QCOMPARE(now.laneOf("delegate-1")->beads[1], m->beads[0]);
        QCOMPARE(m->program.find(m->beads[0])->values, p.find("chair.eq")->values);
        QCOMPARE(m->program.blocks.size(), p.blocks.size());
        // A whole chain, copied behind what is there.
        m = moveBeads(layout, p, layout.laneOf("chair")->beads, "programme-l", 99, true);
        QVERIFY(bool(m));
        now = engine::layOut(m->program);
        QCOMPARE(now.laneOf("chair")->beads.size(), 3u);
        QCOMPARE(now.laneOf("programme-l")->beads.size(), layout.laneOf("programme-l")->beads.size() + 3);
        QVERIFY(engine::compile(m->program, 48000, {}));
        // To a destination's lane, at its beginning and its end.
        for (const int place : {0, 99}) {
            m = moveBeads(layout, p, {"chair.highpass"}, "ceiling-1", place, true);
            QVERIFY(bool(m));
            const auto beads = engine::layOut(m->program).laneOf("ceiling-1")->beads;
            QCOMPARE(place ? beads.back() : beads.front(), m->beads[0]);
        }
        QVERIFY(!moveBeads(layout, p, {"hall"}, "chair", 0, false));
        QVERIFY(!moveBeads(layout, p, {"chair.eq"}, "nobody", 0, false));
    }
    void whatARemovalBreaksIsCounted() {
        const auto& p = *hall().program;
        QCOMPARE(brokenBy(p, *removeBlock(p, "chair.eq")), 0);
        QCOMPARE(brokenBy(p, *removeBlock(p, "hall")), 7);
    }
    // What a drag from one lane's end to another's means.
    void draggedLanes() {
        const auto layout = engine::layOut(*hall().program);
        using Routes = std::vector<Route>;
        QCOMPARE(draggedRoutes(layout, "chair", "loop", {}), (Routes{{"chair", "loop"}}));
        QCOMPARE(draggedRoutes(layout, "loop", "chair", {}), (Routes{{"chair", "loop"}})); // from the other end
        QVERIFY(draggedRoutes(layout, "chair", "delegate-1", {}).empty());
        QVERIFY(draggedRoutes(layout, "chair", "nobody", {}).empty() && draggedRoutes(layout, "", "loop", {}).empty());
        QVERIFY(draggedRoutes(layout, "hall", "loop", {}).empty());
        // Chosen ones go along in their order, to the target and those below it; what has no partner is left.
        std::vector<std::string> to;
        for (const auto& l : layout.lanes)
            if (l.destination())
                to.push_back(l.end);
        const std::vector<std::string> chosen{"delegate-3", "delegate-1", "delegate-2", to[0]};
        QCOMPARE(draggedRoutes(layout, "delegate-2", to[0], chosen),
                 (Routes{{"delegate-1", to[0]}, {"delegate-2", to[1]}, {"delegate-3", to[2]}}));
        QCOMPARE(draggedRoutes(layout, "delegate-2", to.back(), chosen), (Routes{{"delegate-1", to.back()}}));
        QCOMPARE(draggedRoutes(layout, "chair", to[0], chosen), (Routes{{"chair", to[0]}})); // it is not chosen
        // All to one, each once.
        const auto one = allToOne(layout, draggedRoutes(layout, "delegate-2", "loop", chosen), chosen);
        QCOMPARE(one.size(), 3u);
        for (const auto& [from, into] : one)
            QVERIFY(into == "loop" && from.rfind("delegate-", 0) == 0);
        QVERIFY(allToOne(layout, {}, chosen).empty());
    }
};
LOOM_TEST(tst_routes, TestRoutes)
#include "tst_routes.moc"
