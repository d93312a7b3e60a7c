// What must hold of every layout, over programs made at random.
#ifndef Q_MOC_RUN
#include "engine/block_kind.h"
#include "engine/layout.h"
#endif
#include <QTest>
#include <random>
#include <set>

using namespace loom::engine;

namespace {

Program randomProgram(unsigned seed, int lanes) {
    std::mt19937 dice(seed);
    Program p;
    const int outs = 1 + static_cast<int>(dice() % static_cast<unsigned>(lanes));
    p.blocks.push_back({"mix", "matrix", "", {{"inputs", std::min(lanes, 128)}, {"outputs", std::min(outs, 128)}}});
    const char* kinds[] = {"eq", "level", "highpass", "delay"};
    const auto chain = [&](std::string from, const std::string& name) {
        for (unsigned i = dice() % 5; i > 0; --i) {
            const std::string id = name + "." + std::to_string(i);
            p.blocks.push_back({id, kinds[dice() % 4], ""});
            p.threads.push_back({{from, 0}, {id, 0}});
            from = id;
        }
        return from;
    };
    for (int i = 0; i < std::min(lanes, 128); ++i) {
        const std::string id = "in" + std::to_string(i);
        p.blocks.push_back({id, "source", ""});
        const auto end = chain(id, id);
        if (dice() % 8)
            p.threads.push_back({{end, 0}, {"mix", i}});
    }
    for (int o = 0; o < std::min(outs, 128); ++o) {
        const std::string id = "out" + std::to_string(o);
        p.blocks.push_back({id, "destination", ""});
        p.threads.push_back({{"mix", o}, {id, 0}});
    }
    return p;
}

} // namespace

class TestLayout : public QObject {
    Q_OBJECT
  private slots:
    void everythingHasOnePlace() {
        for (unsigned seed = 0; seed < 200; ++seed) {
            const Program p = randomProgram(seed, 1 + static_cast<int>(seed % 40));
            const Layout l = layOut(p);
            std::multiset<std::string> placed;
            std::set<double> sourceRows, destinationRows;
            for (const auto& lane : l.lanes) {
                placed.insert(lane.end);
                placed.insert(lane.beads.begin(), lane.beads.end());
                QVERIFY((lane.source ? sourceRows : destinationRows).insert(lane.row).second); // no overlap
                QVERIFY(lane.row >= 0 && lane.row < l.rows);
            }
            for (const auto& h : l.hubs) {
                placed.insert(h.block);
                for (std::size_t i = 1; i < h.inRows.size(); ++i)
                    QVERIFY(h.inRows[i] >= h.inRows[i - 1] + 1);
            }
            QCOMPARE(placed.size(), p.blocks.size());
            for (const auto& b : p.blocks)
                QCOMPARE(placed.count(b.id), std::size_t(1));
        }
    }
    void laneGoesOnWhereAThreadBranchesOff() {
        Program p;
        p.blocks = {{"s", "source", ""},   {"a", "level", ""},         {"b", "eq", ""},    {"split", "crossover", ""},
                    {"mix", "matrix", ""}, {"out", "destination", ""}, {"c", "level", ""}, {"d", "level", ""}};
        p.threads = {{{"s", 0}, {"a", 0}}, {{"s", 0}, {"split", 0}}, {{"a", 0}, {"mix", 1}},
                     {{"a", 0}, {"b", 0}}, {{"b", 0}, {"mix", 0}},   {{"mix", 0}, {"out", 0}}};
        auto l = layOut(p);
        QCOMPARE(l.laneOf("s")->beads, (std::vector<std::string>{"a", "b"}));
        QCOMPARE(l.laneOf("s")->open, (PortRef{"b", 0}));
        QCOMPARE(l.hubOf("split")->inRows.at(0), l.laneOf("s")->row);
        QVERIFY(!l.hubOf("a") && !l.laneOf("split"));
        // Two beads: neither is more the lane than the other.
        p.threads.push_back({{"b", 0}, {"c", 0}});
        p.threads.push_back({{"b", 0}, {"d", 0}});
        l = layOut(p);
        QCOMPARE(l.laneOf("s")->beads, (std::vector<std::string>{"a", "b"}));
        QVERIFY(l.hubOf("c") && l.hubOf("d"));
    }
    void straightWhereItCanBe() { // sources in the order of the inputs they reach: every thread runs level
        const Program p = randomProgram(3, 20);
        const Layout l = layOut(p);
        for (const auto& t : p.threads)
            if (t.to.block == "mix")
                QCOMPARE(l.hubs[0].inRows[static_cast<std::size_t>(t.to.port)], l.laneOf(t.from.block)->row);
    }
    void otherLanesStayWhenOneGetsABlock() {
        Program p = randomProgram(5, 20);
        const Layout before = layOut(p);
        p.blocks.push_back({"new", "eq", ""});
        for (auto& t : p.threads)
            if (t.from.block == "in4")
                t.from.block = "new";
        p.threads.push_back({{"in4", 0}, {"new", 0}});
        const Layout after = layOut(p);
        for (const auto& lane : before.lanes)
            QCOMPARE(after.laneOf(lane.end)->row, lane.row);
    }
    void loopsAndUnknownBlocksDoNoHarm() {
        Program p = randomProgram(9, 6);
        p.blocks.push_back({"odd", "of-tomorrow", ""});
        p.threads.push_back({{"odd", 0}, {"odd", 0}});
        p.threads.push_back({{"mix", 0}, {"mix", 0}});
        QVERIFY(layOut(p).rows > 0);
    }
};
QTEST_APPLESS_MAIN(TestLayout)
#include "tst_layout.moc"
