// A cable of the network is relieved: sound goes round a ring, or on from a device that has both.
#ifndef Q_MOC_RUN
#include "model/history.h"
#include "patch/ways.h"
#include "voicings/relief.h"
#endif
#include "models.h"
#include "test.h"

using namespace loom;
using namespace loom::project;

class TestRelief : public QObject {
    Q_OBJECT
    static Device device(const std::string& id, const std::string& model, const char* in = "", const char* out = "") {
        Device d;
        d.id = d.name = id, d.model = model, d.models = test::models();
        if (*in) {
            engine::Program p;
            engine::Block a, b;
            a.id = "a", a.kind = "source", a.texts["port"] = in;
            b.id = "b", b.kind = "destination", b.label = "Mix", b.texts["port"] = out;
            p.blocks = {a, b};
            p.connections = {{{"a", 0}, {"b", 0}}};
            d.program = p;
        }
        return d;
    }
    static void lay(Project& p, const char* id, const char* from, const char* to) {
        Wire w;
        w.id = id, w.from = from, w.to = to, w.number = std::string("N-") + id;
        p.wires.push_back(w);
    }
    // In one rack a and r on a ring with t; far away b. Two switches with a trunk.
    static Project racks(const char* from, const char* to, const char* toIn, const char* toOut) {
        Project p;
        p.devices = {device("s1", "sley-24"),
                     device("s2", "sley-24"),
                     device("a", "heddle-16", "in 1", "net 3"),
                     device("r", "heddle-8", "in 1", "out 1"),
                     device("t", "treadle-4", "in 1", "out 1"),
                     device("b", "heddle-8", "in 1", "net 3")};
        auto& d = *p.device(to);
        d.program = device("x", "heddle-8", toIn, toOut).program;
        lay(p, "wa", "a/lan 1", "s1/lan 1");
        lay(p, "wr", "r/lan 1", "s1/lan 2");
        lay(p, "wt", "t/lan 1", "s1/lan 3");
        lay(p, "wb", "b/lan 1", "s2/lan 1");
        lay(p, "trunk", "s1/lan 24", "s2/lan 24");
        lay(p, "r1", "a/ring b", "r/ring a");
        lay(p, "r2", "r/ring b", "t/ring a");
        lay(p, "r3", "t/ring b", "a/ring a");
        Stream s;
        s.id = s.name = "mix", s.ports = {"net 3"}, s.levelDb = -4;
        p.device(from)->streams = {s};
        p.device(to)->receivers = {{"mix", {toIn}, {std::string(from) + "/mix"}}};
        return p;
    }
    static Project after(const Project& p, const Relief& r) {
        const auto then = r.edit.make(p);
        if (!then)
            qInfo("%s", then.error().text().c_str());
        return then ? *then : p;
    }
    static bool leads(const Project& p, const char* from, const char* to) {
        const auto patched = patchedOf(p);
        return SoundWays(p, patched, wiredOf(p, patched)).between(from, to).has_value();
    }

  private slots:
    void straightRoundTheRing() {
        const auto p = racks("a", "t", "net 1", "out 1");
        QVERIFY(leads(p, "a/in 1", "t/out 1"));
        const auto all = reliefsOf(p, "wt");
        QVERIFY(all && all->size() == 1);
        const auto& r = all->front();
        QVERIFY(r.stream == "a/mix" && r.receiver == "t/mix" && r.over.empty() && r.more.empty());
        QVERIFY2(std::abs(r.before - 1.776) < 1e-9 && r.after == 0,
                 std::to_string(r.before).c_str()); // 144 + 78 bytes, 8,000 times
        QCOMPARE(wordsOf(p, r), std::string("mix to t, round the ring: 1.8 to 0.0 Mbit/s"));
        const auto then = after(p, r);
        const auto patched = patchedOf(then);
        QVERIFY(patched.offers.size() == 1 && patched.offers[0].transport == Transport::ring);
        QCOMPARE(patched.offers[0].stream->levelDb, -4.0); // as it was set
        QVERIFY(leads(then, "a/in 1", "t/out 1"));
        QCOMPARE(std::as_const(then).device("t")->program->find("a")->texts.at("port"),
                 then.device("t")->receivers[0].inputs[0]);
        QVERIFY(bool(History(*std::make_unique<Project>(p)).run(r.edit)));
        // By its number too; nothing goes over the trunk, and a ring is no cable of the network.
        QVERIFY(reliefsOf(p, "N-wa") && reliefsOf(p, "N-wa")->size() == 1);
        QVERIFY(reliefsOf(p, "trunk")->empty());
        QVERIFY(!reliefsOf(p, "r1") && !reliefsOf(p, "nothing"));
    }
    void theRingFirst() {
        const auto p = racks("a", "b", "net 9", "out 1");
        const auto all = reliefsOf(p, "wa");
        QVERIFY(all && all->size() == 1);
        const auto& r = all->front();
        QVERIFY(r.over == "r" && r.after == 0 && r.more.size() == 1 && r.more[0].wire == "wr");
        QVERIFY(r.more[0].before == 0 && std::abs(r.more[0].after - 1.776) < 1e-9);
        QVERIFY(wordsOf(p, r).find("over ring and network by r: 1.8 to 0.0 Mbit/s; wr 0.0 to 1.8") !=
                std::string::npos);
        const auto then = after(p, r);
        QVERIFY(leads(then, "a/in 1", "b/out 1") && leads(p, "a/in 1", "b/out 1"));
        const auto patched = patchedOf(then);
        QCOMPARE(patched.offers.size(), std::size_t(2)); // round the ring, and on
        for (const auto& o : patched.offers)
            QCOMPARE(o.stream->levelDb, o.device->id == "a" ? -4.0 : 0.0); // once
        QCOMPARE(then.device("b")->receivers[0].inputs, std::vector<std::string>{"net 9"});
        QVERIFY(reliefsOf(p, "trunk")->empty()); // it goes over that all the same
    }
    void theNetworkFirst() {
        auto p = racks("b", "t", "net 1", "out 1");
        const auto all = reliefsOf(p, "wt");
        QVERIFY(all && all->size() == 1);
        const auto& r = all->front();
        QVERIFY((r.over == "a" || r.over == "r") && r.after == 0);
        const auto then = after(p, r);
        QVERIFY(leads(then, "b/in 1", "t/out 1"));
        QVERIFY(then.device("t")->receivers[0].inputs[0].starts_with("ring "));
        QVERIFY(then.device("b")->streams.size() == 1 && std::as_const(then).device(r.over)->receivers.size() == 1);
        // None where the one between has no program to lead it through, its ring has no room, or there is no ring.
        for (const char* id : {"a", "r"})
            p.device(id)->program.reset();
        QVERIFY(reliefsOf(p, "wt")->empty());
        auto full = racks("a", "t", "net 1", "out 1");
        for (int n = 1; n <= 4; ++n) {
            Stream s;
            s.id = s.name = "s" + std::to_string(n), s.ports = {"ring " + std::to_string(n)};
            full.device("r")->streams.push_back(s);
            full.device("t")->receivers.push_back({s.id, {"ring " + std::to_string(n)}, {"r/" + s.id}});
        }
        QVERIFY(reliefsOf(full, "wt")->empty()); // its four inputs of the ring are taken
        auto none = racks("a", "t", "net 1", "out 1");
        none.wires = {};
        lay(none, "wa", "a/lan 1", "s1/lan 1");
        lay(none, "wt", "t/lan 1", "s1/lan 3");
        QVERIFY(reliefsOf(none, "wt")->empty());
    }
    void whoElseHearsItKeepsIt() {
        auto p = racks("a", "t", "net 1", "out 1");
        p.device("b")->receivers = {{"mix", {"net 9"}, {"a/mix"}}};
        const auto all = reliefsOf(p, "wt");
        QVERIFY(all && all->size() == 1);
        const auto then = after(p, all->front());
        QVERIFY(patchedOf(then).offer("a/mix") && patchedOf(then).offers.size() == 2);
        QVERIFY(leads(then, "a/in 1", "t/out 1"));
    }
};

LOOM_TEST(tst_relief, TestRelief)
#include "tst_relief.moc"
