// Ways of sound between devices: spanning trees, rings, cuts, loads, delays, clock, power; cables laid and taken away.
#ifndef Q_MOC_RUN
#include "engine/latency.h"
#include "file/project_json.h"
#include "model/history.h"
#include "patch/clock.h"
#include "patch/delays.h"
#include "patch/limits.h"
#include "patch/patch_edit.h"
#include "patch/ways.h"
#include "patch/wire_edit.h"
#endif
#include "models.h"
#include "test.h"

using namespace loom;
using namespace loom::project;

class TestWiring : public QObject {
    Q_OBJECT
    static Device device(const std::string& id, const std::string& model) {
        Device d;
        d.id = d.name = id;
        d.model = model;
        d.models = test::models();
        return d;
    }
    static bool run(Project& p, Result<Edit> edit) {
        if (!edit) {
            qInfo("%s", edit.error().text().c_str());
            return false;
        }
        return bool(History(p).run(std::move(*edit)));
    }
    static std::string refusal(const Result<Edit>& edit) { return edit ? std::string() : edit.error().text(); }
    static bool wire(Project& p, const std::string& from, const std::string& to) {
        return run(p, layWire(p, {from, to}));
    }
    // Two switches and a third, each joined with each; a on the first, b on the second, c on the third.
    //      a - s1 - s2 - b      w1 a-s1, w2 b-s2, w3 c-s3, w4 s1-s2, w5 s2-s3, w6 s3-s1
    //           \  s3 /
    static Project triangle() {
        Project p;
        for (const char* s : {"s1", "s2", "s3"})
            p.devices.push_back(device(s, "sley-24"));
        for (const char* d : {"a", "b", "c"})
            p.devices.push_back(device(d, "heddle-16"));
        const bool good = wire(p, "a", "s1") && wire(p, "b", "s2") && wire(p, "c", "s3") && wire(p, "s1", "s2") &&
                          wire(p, "s2", "s3") && wire(p, "s3", "s1") &&
                          run(p, offerStream(p, "a", "mix", {"net 1", "net 2"})) &&
                          run(p, hearStream(p, "a/mix", "b")) && run(p, hearStream(p, "a/mix", "c"));
        return good ? p : Project{};
    }
    static std::vector<std::string> wiresOf(const Wired& w, const Delivery& d) {
        std::vector<std::string> all;
        for (const auto n : d.wires)
            all.push_back(w.wires[n].wire->id);
        return all;
    }
    using Names = std::vector<std::string>;
    static Project ringOfFour() {
        Project p;
        for (const char* d : {"a", "b", "c", "d"})
            p.devices.push_back(device(d, "heddle-16"));
        const bool good = run(p, orderRing(p, {"a", "b", "c", "d"})) &&
                          run(p, offerStream(p, "a", "round", {"ring 1", "ring 2", "ring 3"})) &&
                          run(p, hearStream(p, "a/round", "b")) && run(p, hearStream(p, "a/round", "c", "ring 5"));
        return good ? p : Project{};
    }

  private slots:
    void treeAndReserve() {
        const auto p = triangle();
        QCOMPARE(p.wires.size(), std::size_t(6));
        QVERIFY(p.wires[0].from == "a/lan 1" && p.wires[0].to == "s1/lan 1" && p.wires[3].to == "s2/lan 2");
        const auto patched = patchedOf(p);
        const auto w = wiredOf(p, patched);
        // The first switch is the root; both others join it directly, and what joins them waits.
        QVERIFY(w.wires[3].used && w.wires[5].used && !w.wires[4].used && w.wires[4].works);
        QCOMPARE(wiresOf(w, w.deliveries[0]), (Names{"w1", "w4", "w2"}));
        QCOMPARE(wiresOf(w, w.deliveries[1]), (Names{"w1", "w6", "w3"}));
        QCOMPARE(w.deliveries[0].devices, (std::vector<int>{3, 0, 1, 4}));
        // To many: once along each cable, in the direction it goes.
        const double one = patched.offers[0].load().megabits();
        QVERIFY(w.wires[0].there == one && w.wires[0].back == 0 && w.wires[0].flowsThere == 1);
        QVERIFY(w.wires[1].back == one && w.wires[1].there == 0); // laid from b to the switch
        QVERIFY(w.wires[5].back == one && w.wires[4].there == 0 && w.wires[3].megabits == 1000);
    }
    void toOneOnlyCountsForEach() {
        auto p = triangle();
        p.device("a")->streams[0].unicast = true;
        const auto patched = patchedOf(p);
        const auto w = wiredOf(p, patched);
        QCOMPARE(w.wires[0].there, 2 * patched.offers[0].load().megabits());
        QCOMPARE(w.wires[0].flowsThere, 2);
        QCOMPARE(w.wires[3].flowsThere, 1);
    }
    void cutsOfTheNetwork() {
        const auto p = triangle();
        const auto patched = patchedOf(p);
        const auto whole = wiredOf(p, patched);
        auto cut = wiredOf(p, patched, {{"w4"}, {}}); // the reserve comes in
        QCOMPARE(wiresOf(cut, cut.deliveries[0]), (Names{"w1", "w6", "w5", "w2"}));
        auto effects = effectsOf(whole, cut);
        QVERIFY(effects.size() == 1 && effects[0].hearing == 0 && !effects[0].silent);
        cut = wiredOf(p, patched, {{"w4", "w5"}, {}}); // two at once: nothing leads to b
        effects = effectsOf(whole, cut);
        QVERIFY(effects.size() == 1 && effects[0].silent && cut.deliveries[0].why.find("No cable") == 0);
        effects = effectsOf(whole, wiredOf(p, patched, {{}, {"s1"}})); // a hangs on it
        QVERIFY(effects.size() == 2 && effects[0].silent && effects[1].silent);
        effects = effectsOf(whole, wiredOf(p, patched, {{}, {"c"}}));
        QVERIFY(effects.size() == 1 && effects[0].hearing == 1 && effects[0].silent);
        QVERIFY(effectsOf(whole, wiredOf(p, patched, {{"w5"}, {}})).empty()); // was in reserve
        const std::vector<std::size_t> only{1};
        const auto part = wiredOf(p, patched, {{"w6"}, {}}, &only);
        QVERIFY(part.deliveries.size() == 1 && part.delivery(1) && !part.delivery(0) &&
                wiresOf(part, *part.delivery(1)) == (Names{"w1", "w4", "w5", "w3"}));
    }
    void fasterLinksFirst() {
        auto p = triangle();
        const auto other = [&](Project& to, std::vector<SocketGroup> sockets) {
            auto model = test::model("sley-24");
            model.id = "other";
            model.sockets = std::move(sockets);
            to.device("s3")->models = *Catalogue::of({model});
            to.device("s3")->model = "other";
        };
        other(p, {{"lan", 8, 100}});
        // From the root to the slow one 200 000 a link, over the other as well: directly is cheaper.
        auto w = wiredOf(p, patchedOf(p));
        QVERIFY(w.wires[5].used && w.wires[5].megabits == 100 && !w.wires[4].used);
        // A direct link of 10 Mbit/s costs more than a way of 1000 and 100.
        Project again = p;
        other(again, {{"lan", 4, 100}, {"old", 1, 10}});
        again.wires.change(5).from = "s3/old 1";
        w = wiredOf(again, patchedOf(again));
        QVERIFY(!w.wires[5].used && w.wires[4].used);
    }
    void notPlannedReachesAll() {
        auto p = triangle();
        p.wires = {};
        const auto patched = patchedOf(p);
        auto w = wiredOf(p, patched);
        QVERIFY(w.deliveries[0].runs && w.deliveries[0].wires.empty() && !w.network);
        QVERIFY(delayOf(p, patched, w, w.deliveries[0]).network == 0);
        QVERIFY(wire(p, "b", "s2")); // now it is planned, and a is not on it
        const auto again = patchedOf(p);
        w = wiredOf(p, again);
        QVERIFY(!w.deliveries[0].runs && w.network);
    }
    void straightFromDeviceToDevice() {
        Project p;
        for (const char* d : {"a", "b", "c"})
            p.devices.push_back(device(d, "heddle-16"));
        QVERIFY(wire(p, "a", "b") && wire(p, "b", "c"));
        QVERIFY(run(p, offerStream(p, "a", "mix", {"net 1"})) && run(p, hearStream(p, "a/mix", "b")) &&
                run(p, hearStream(p, "a/mix", "c")));
        const auto patched = patchedOf(p);
        const auto w = wiredOf(p, patched);
        QVERIFY(w.deliveries[0].runs && w.deliveries[0].wires.size() == 1);
        QVERIFY(!w.deliveries[1].runs); // b passes nothing on
        QVERIFY(w.segments[0] == w.segments[1] && w.segments[2] != w.segments[0]);
    }
    void secondSocketTakesOver() {
        auto p = triangle();
        QVERIFY(wire(p, "a", "s2")); // its second socket, w7
        const auto patched = patchedOf(p);
        const auto whole = wiredOf(p, patched);
        QVERIFY(!whole.wires[6].used);
        const auto cut = wiredOf(p, patched, {{"w1"}, {}});
        QCOMPARE(wiresOf(cut, cut.deliveries[0]), (Names{"w7", "w2"}));
    }
    void differentNetworksAndRates() {
        auto p = triangle();
        p.device("b")->soundNetwork = "guests";
        p.device("c")->rate = 96000;
        const auto w = wiredOf(p, patchedOf(p));
        QVERIFY(!w.deliveries[0].runs && w.deliveries[0].why.find("\"guests\"") != std::string::npos);
        QVERIFY(!w.deliveries[1].runs && w.deliveries[1].why.find("48 and 96 kHz") != std::string::npos);
    }

    void rings() {
        const auto p = ringOfFour();
        const auto patched = patchedOf(p);
        const auto w = wiredOf(p, patched);
        QCOMPARE(w.rings.size(), std::size_t(1));
        const auto& r = w.rings[0];
        QVERIFY(r.closed && !r.crossed);
        QCOMPARE(r.name, std::string("Ring A"));
        QVERIFY(r.most == 192 && r.used == 3 && r.hopSamples == 8);
        QCOMPARE(r.devices, (std::vector<int>{0, 1, 2, 3}));
        QCOMPARE(w.deliveries[0].wires.size(), std::size_t(1));
        // A break: the other way round, and as late as before.
        const auto cut = wiredOf(p, patched, {{p.wires[0].id}, {}});
        QVERIFY(cut.deliveries[0].runs && cut.deliveries[0].wires.size() == 3);
        const auto effects = effectsOf(w, cut);
        QVERIFY(effects.size() >= 1 && !effects[0].silent);
        QCOMPARE(delayOf(p, patched, w, w.deliveries[0]).total(), 8000.0 / 48000);
        QCOMPARE(delayOf(p, patched, cut, cut.deliveries[0]).total(), 8000.0 / 48000);
        // Two breaks: b stands alone.
        const auto two = wiredOf(p, patched, {{p.wires[0].id, p.wires[1].id}, {}});
        QVERIFY(!two.deliveries[0].runs && two.deliveries[1].runs);
        QVERIFY(two.deliveries[0].why.find("No way round") == 0);
        // Without power, b is a break too.
        QVERIFY(wiredOf(p, patched, {{}, {"b"}}).deliveries[1].wires.size() == 2);
    }
    void ringsThatAreNone() {
        auto p = ringOfFour();
        erase_if(p.wires, [](const Wire& w) { return w.from == "d/ring b"; }); // d to a
        auto r = wiredOf(p, patchedOf(p)).rings[0];
        QVERIFY(!r.closed && r.devices.front() == 0 && r.devices.back() == 3);
        p = ringOfFour();
        std::swap(p.wires.change(1).from, p.wires.change(1).to); // says the same
        QVERIFY(wiredOf(p, patchedOf(p)).rings[0].closed);
        p.wires.change(1).from = "c/ring b"; // b to b
        p.wires.change(1).to = "b/ring b";
        r = wiredOf(p, patchedOf(p)).rings[0];
        QVERIFY(r.crossed);
    }
    void ringInAnotherOrder() {
        auto p = ringOfFour();
        p.wires.change(0).metres = 7; // a to b
        p.wires.change(0).number = "R-1";
        QVERIFY(run(p, orderRing(p, {"b", "a", "d"})));
        QCOMPARE(p.wires.size(), std::size_t(3)); // c hangs on nothing any more
        const auto r = wiredOf(p, patchedOf(p)).rings[0];
        QVERIFY(r.closed && r.devices.size() == 3);
        const auto kept = std::find_if(p.wires.begin(), p.wires.end(), [](const Wire& w) { return w.number == "R-1"; });
        QVERIFY(kept != p.wires.end() && kept->metres == 7 && kept->from == "b/ring b" && kept->to == "a/ring a");
        QVERIFY(refusal(orderRing(p, {"a"})).find("two devices") != std::string::npos);
        QVERIFY(refusal(orderRing(p, {"a", "a"})).find("twice") != std::string::npos);
        p.devices.push_back(device("tap", "tap"));
        QVERIFY(refusal(orderRing(p, {"a", "tap"})).find("no ring sockets") != std::string::npos);
        QVERIFY(refusal(orderRing(p, {"a", "x"})).find("no device") != std::string::npos);
    }

    void cablesLaidAndTaken() {
        auto p = triangle();
        QVERIFY(refusal(layWire(p, {"a/lan 1", "s2"})).find("has a cable already") != std::string::npos);
        QVERIFY(refusal(layWire(p, {"a/lan 9", "s2"})).find("lan 1 to ring b") != std::string::npos);
        QVERIFY(refusal(layWire(p, {"a", "a"})).find("another device") != std::string::npos);
        QVERIFY(refusal(layWire(p, {"a", "x"})).find("no device") != std::string::npos);
        QVERIFY(refusal(layWire(p, {"a/ring a", "s2/lan 9"})).find("no cable fits") != std::string::npos);
        QVERIFY(wire(p, "a", "s2"));
        QVERIFY(refusal(layWire(p, {"a", "s3"})).find("no free socket") != std::string::npos);
        QVERIFY(refusal(removeWires(p, {"w1", "w99"})).find("w99") != std::string::npos);
        QVERIFY(run(p, removeWires(p, {"w1", "w2"})) && p.wires.size() == 5 && p.wires[0].id == "w3");
        QVERIFY(wire(p, "b", "s1"));
        std::set<std::string> ids;
        for (const auto& w : p.wires)
            ids.insert(w.id);
        QCOMPARE(ids.size(), p.wires.size());
        QVERIFY(run(p, setWireField(p, "w3", "metres", "55.5")) && run(p, setWireField(p, "w3", "grade", "fibre")) &&
                run(p, setWireField(p, "w3", "number", "N-14")));
        QVERIFY(p.wires[0].metres == 55.5 && p.wires[0].grade == Wire::Grade::fibre && p.wires[0].number == "N-14");
        QVERIFY(!setWireField(p, "w3", "colour", "red") && !setWireField(p, "w99", "metres", "1"));
        QCOMPARE(wireFields(p, "w3").size(), std::size_t(3));
        const auto back = projectFromJson(toJson(p), test::models());
        QVERIFY(back && back->wires == p.wires);
        // A cable of a lead.
        QVERIFY(run(p, layWire(p, {"a/out 1", "b/in 1", "M-3", 12})));
        QVERIFY(p.wires.back().grade == Wire::Grade::balanced);
    }
    void cablesThatDoNotCarry() {
        Wire w;
        WireLoad l;
        l.wire = &w;
        const auto fault = [&](Transport t, Wire::Grade g, double metres, double megabits = 1000) {
            w.grade = g, w.metres = metres, l.transport = t, l.megabits = megabits;
            const auto f = faultOf(l);
            return !f ? 0 : f->grade ? 1 : 2; // 1: grade, 2: length
        };
        using G = Wire::Grade;
        using T = Transport;
        QCOMPARE(fault(T::network, G::cat5e, 100), 0);
        QCOMPARE(fault(T::network, G::cat5e, 101), 2);
        QCOMPARE(fault(T::network, G::cat5e, 10, 10000), 1);
        QCOMPARE(fault(T::network, G::cat6, 55, 10000), 0);
        QCOMPARE(fault(T::network, G::cat6, 56, 10000), 2);
        QCOMPARE(fault(T::network, G::cat6a, 100, 10000), 0);
        QCOMPARE(fault(T::network, G::fibre, 550), 0);
        QCOMPARE(fault(T::ring, G::fibre, 551), 2);
        QCOMPARE(fault(T::network, G::balanced, 3), 1);
        QCOMPARE(fault(T::pair, G::balanced, 3), 1);
        QCOMPARE(fault(T::pair, G::pair110, 100), 0);
        QCOMPARE(fault(T::pair, G::cat6, 101), 2);
        QCOMPARE(fault(T::cable, G::balanced, 5000), 0);
    }

    // 2 channels of L24 and 1 ms: 288 of payload, 328 of IP, 366 bytes on the wire (8 + 14 + 328 + 4 + 12). Three
    // cables of 1000 Mbit/s: 2.928 us each; two switches of 5 us and a largest frame (1538 bytes, 12.304 us)
    // each: 43.392 us.
    void delays() {
        auto p = triangle();
        auto patched = patchedOf(p);
        auto w = wiredOf(p, patched);
        auto d = delayOf(p, patched, w, w.deliveries[0]);
        QVERIFY(std::abs(d.packet - 1) < 1e-12);
        QVERIFY(std::abs(d.network - 0.043392) < 1e-9);
        QVERIFY(!d.late() && std::abs(d.total() - std::ceil(2.043392 * 48) / 48) < 1e-9); // 99 samples
        QVERIFY(std::abs(d.total() * 48 - 99) < 1e-9);
        p.wires.change(0).metres = 100; // half a microsecond more
        w = wiredOf(p, patched = patchedOf(p));
        QVERIFY(std::abs(delayOf(p, patched, w, w.deliveries[0]).network - 0.043892) < 1e-9);
        p.device("b")->receivers[0].delayMs = 5;
        w = wiredOf(p, patched = patchedOf(p));
        QCOMPARE(delayOf(p, patched, w, w.deliveries[0]).total(), 5.0);
        QVERIFY(run(p, alignReceivers(p, "a/mix")));
        w = wiredOf(p, patched = patchedOf(p));
        QCOMPARE(delayOf(p, patched, w, w.deliveries[1]).total(), 5.0);
        p.device("c")->receivers[0].delayMs = 1;
        w = wiredOf(p, patched = patchedOf(p));
        QVERIFY(delayOf(p, patched, w, w.deliveries[1]).late());
        QVERIFY(run(p, unhearStream(p, "a/mix", "b")) && run(p, unhearStream(p, "a/mix", "c")));
        QVERIFY(refusal(alignReceivers(p, "a/mix")).find("nobody hears") != std::string::npos);
    }

    void whoLeadsTheClock() {
        auto p = triangle();
        p.devices.push_back(device("amp", "treadle-4"));
        p.devices.push_back(device("array", "canopy-8"));
        QVERIFY(wire(p, "amp", "s1") && wire(p, "array", "s1"));
        const auto order = [&](const Cut& cut = {}) {
            Names all;
            for (const auto& c : clocksOf(p, wiredOf(p, patchedOf(p), cut))) {
                for (const int n : c.order)
                    all.push_back(p.devices[static_cast<std::size_t>(n)].id);
                all.push_back(c.leads ? "|" : "!");
            }
            return all;
        };
        // 64 of the processors, by id; 200 of the amplifier; the array never leads. Switches take no part.
        QCOMPARE(order(), (Names{"a", "b", "c", "amp", "array", "|"}));
        p.device("c")->clockPriority = 10;
        p.device("b")->serial = "00"; // its identity
        QCOMPARE(order(), (Names{"c", "b", "a", "amp", "array", "|"}));
        p.device("a")->soundNetwork = p.device("array")->soundNetwork = "x";
        QCOMPARE(order(), (Names{"c", "b", "amp", "|", "a", "array", "|"}));
        p.device("a")->clockPriority = 255;
        QCOMPARE(order().back(), std::string("!"));
        p.device("a")->soundNetwork = p.device("array")->soundNetwork = "";
        QCOMPARE(order({{"w2"}, {}}).size(), std::size_t(7)); // b stands alone and leads itself
    }

    void limitsAndPower() {
        auto p = triangle();
        p.devices.push_back(device("amp", "treadle-4"));
        for (int n = 1; n <= 5; ++n) {
            const std::string id = "canopy-" + std::to_string(n);
            p.devices.push_back(device(id, "canopy-8"));
            QVERIFY(wire(p, id, "s1"));
            QVERIFY(run(p, offerStream(p, id, "lobe " + std::to_string(n), {"net 1"})));
            QVERIFY(run(p, hearStream(p, id + "/lobe " + std::to_string(n), "b")));
        }
        const auto limit = [&](const char* device, Limit::What what) {
            for (const auto& l : limitsOf(patchedOf(p), *p.device(device)))
                if (l.what == what)
                    return l;
            return Limit{};
        };
        using What = Limit::What;
        const auto peers = limit("b", What::peers);
        QVERIFY(peers.over() && peers.used == 5 && peers.most == 4);
        QVERIFY(!limit("b", What::flowsIn).over() && limit("b", What::flowsIn).used == 6);
        QVERIFY(limit("canopy-1", What::megabitsOut).most == 100 && limit("amp", What::flowsIn).most == 4);
        QVERIFY(limit("a", What::channelsOut).used == 2 && limit("a", What::channelsOut).most == 32);
        QCOMPARE(limit("s1", What::flowsIn).most, 0.0);
        const auto patched = patchedOf(p);
        const auto w = wiredOf(p, patched);
        const auto power = powerUse(p, w);
        QVERIFY(power.size() == 3); // the others feed nothing that takes any
        QVERIFY(power[0].device == 0 && power[0].taken == 45 && power[0].most == 240);
        QVERIFY(unpowered(p, w).empty());
        QVERIFY(run(p, removeWires(p, {p.wires.back().id})) && wire(p, "canopy-5", "amp"));
        QCOMPARE(unpowered(p, wiredOf(p, patchedOf(p))), std::vector<int>{int(p.devices.size()) - 1});
    }

    void waysThroughDevices() {
        Project p;
        p.devices.push_back(device("mic", "reed-g40"));
        p.devices.push_back(device("dsp", "heddle-16"));
        p.devices.push_back(device("far", "heddle-8"));
        p.devices.push_back(device("box", "shuttle-8"));
        p.devices.push_back(device("amp", "treadle-2a"));
        const auto program = [](const std::string& in, const std::string& out, bool echo) {
            engine::Program all;
            all.blocks.push_back({"s", "source", ""});
            all.blocks.push_back({"d", "destination", ""});
            all.blocks.change(0).texts["port"] = in;
            all.blocks.change(1).texts["port"] = out;
            if (echo) {
                all.blocks.push_back({"l", "limiter", ""});
                all.connections.push_back({{"s", 0}, {"l", 0}});
                all.connections.push_back({{"l", 0}, {"d", 0}});
            } else {
                all.connections.push_back({{"s", 0}, {"d", 0}});
            }
            return all;
        };
        p.device("dsp")->program = program("in 3", "net 1", true);
        p.device("far")->program = program("net 5", "out 2", false);
        p.device("dsp")->feeds["in 3"] = "mic/out 1";
        p.device("amp")->feeds["in 1"] = "far/out 2";
        QVERIFY(run(p, offerStream(p, "dsp", "mix", {"net 1"})) && run(p, hearStream(p, "dsp/mix", "far", "net 5")) &&
                run(p, hearStream(p, "dsp/mix", "box", "net 2")));
        const auto patched = patchedOf(p);
        const auto w = wiredOf(p, patched);
        const SoundWays ways(p, patched, w);
        const auto way = ways.between("mic/out 1", "amp/out 1");
        QVERIFY(way.has_value());
        const auto limiter = engine::latencies(*p.device("dsp")->program, 48000).at({"l", 0}).most;
        // Converter in 18, limiter, packet 48 and buffer 48, converter out 14; the wiring is not planned.
        QCOMPARE(std::lround(way->mostMs * 48), long(18 + limiter + 96 + 14));
        QCOMPARE(way->leastMs, way->mostMs);
        double sum = 0;
        for (const auto& s : way->steps)
            sum += s.ms;
        QVERIFY(std::abs(sum - way->mostMs) < 1e-9);
        QVERIFY(ways.between("mic/out 1", "box/out 2").has_value()); // a box passes on by number
        QVERIFY(!ways.between("mic/out 1", "box/out 1") && !ways.between("mic/out 1", "nobody/out 1"));
        QCOMPARE(ways.inputsTo("far/out 2"), Names{"far/net 5"});
        QVERIFY(ways.loop().empty());
        // And back: what comes to far goes to dsp again.
        auto loop = p;
        loop.device("far")->program = program("net 5", "net 1", false);
        QVERIFY(run(loop, offerStream(loop, "far", "back", {"net 1"})));
        loop.device("dsp")->program = program("net 7", "net 1", false);
        QVERIFY(run(loop, hearStream(loop, "far/back", "dsp", "net 7")));
        const auto again = patchedOf(loop);
        QCOMPARE(SoundWays(loop, again, wiredOf(loop, again)).loop().size(), std::size_t(4));
    }

    void singleChannelsAndWholeDevices() {
        auto p = triangle();
        QVERIFY(run(p, hearChannel(p, "a/mix", 1, "b", "net 9")));
        QCOMPARE(p.device("b")->receivers.size(), std::size_t(2)); // the first has both channels
        QCOMPARE(p.device("b")->receivers[1].inputs, (Names{"", "net 9"}));
        QVERIFY(run(p, hearChannel(p, "a/mix", 0, "b", "net 12"))); // joins the one that has it free
        QCOMPARE(p.device("b")->receivers[1].inputs, (Names{"net 12", "net 9"}));
        QVERIFY(refusal(hearChannel(p, "a/mix", 0, "b", "net 9")).find("hears something") != std::string::npos);
        QVERIFY(refusal(hearChannel(p, "a/mix", 2, "b", "net 10")).find("no channel 3") != std::string::npos);
        QVERIFY(refusal(hearChannel(p, "a/mix", 0, "b", "in 1")).find("no input for it") != std::string::npos);
        QVERIFY(run(p, offerStream(p, "a", "two", {"net 3"})));
        QVERIFY(run(p, hearAllOf(p, "a", "c")));
        QCOMPARE(p.device("c")->receivers.size(), std::size_t(2)); // mix was there
        QVERIFY(refusal(hearAllOf(p, "a", "c")).find("already") != std::string::npos);
        QVERIFY(refusal(hearAllOf(p, "c", "a")).find("offers nothing") != std::string::npos);
        QCOMPARE(receiversOf(p, "c"), (Names{"c/mix", "c/two"}));
        QVERIFY(run(p, dropReceivers(p, {"c/mix", "b/mix"})));
        QCOMPARE(receiversOf(p, "c"), Names{"c/two"});
        QVERIFY(refusal(dropReceivers(p, {"c/none"})).find("no receiver") != std::string::npos);
    }
    void switchingBetweenStreams() {
        auto p = triangle();
        QVERIFY(run(p, offerStream(p, "c", "other", {"net 1", "net 2"})));
        QVERIFY(run(p, addChoice(p, "b/mix", "c/other")));
        QVERIFY(refusal(addChoice(p, "b/mix", "c/other")).find("already") != std::string::npos);
        QVERIFY(refusal(addChoice(p, "c/mix", "c/other")).find("itself") != std::string::npos);
        QVERIFY(run(p, chooseStream(p, "b/mix", 1)));
        QCOMPARE(streamThreads(p)[0].fromDevice, std::string("c"));
        QVERIFY(refusal(chooseStream(p, "b/mix", 2)).find("It has 2") != std::string::npos);
    }
    void fieldsOfStreams() {
        auto p = triangle();
        QVERIFY(run(p, setStreamField(p, "a/mix", "level", "-6")) &&
                run(p, setStreamField(p, "a/mix", "samples", "L16")) &&
                run(p, setStreamField(p, "a/mix", "packetMs", "0.125")) &&
                run(p, setStreamField(p, "a/mix", "address", "239.1.1.1")) &&
                run(p, setStreamField(p, "a/mix", "name", "Hall mix")));
        const auto& s = p.device("a")->streams[0];
        QVERIFY(s.levelDb == -6 && s.samples == Stream::Samples::l16 && s.packetMs == 0.125 && s.name == "Hall mix");
        QVERIFY(refusal(setStreamField(p, "a/mix", "address", "239.1")).find("no address") != std::string::npos);
        QVERIFY(refusal(setStreamField(p, "a/mix", "name", "")).find("no name") != std::string::npos);
        QVERIFY(!setStreamField(p, "a/mix", "packetMs", "9") && !setStreamField(p, "a/none", "level", "0"));
        QVERIFY(run(p, setReceiverField(p, "b/mix", "delayMs", "7.5")));
        QCOMPARE(p.device("b")->receivers[0].delayMs, 7.5);
        QVERIFY(!streamFields(p, "a/mix").empty() && !receiverFields(p, "b/mix").empty());
    }
    void leads() {
        Project p;
        p.devices.push_back(device("a", "heddle-8"));
        p.devices.push_back(device("amp", "treadle-4"));
        QVERIFY(run(p, lead(p, "a/pair 1", "amp/pair 2")) && run(p, lead(p, "a/out 3", "amp/in 1")));
        QCOMPARE(p.device("amp")->feeds.at("pair 2"), std::string("a/pair 1"));
        QVERIFY(refusal(lead(p, "a/out 4", "amp/in 1")).find("already") != std::string::npos);
        QVERIFY(refusal(lead(p, "a/out 4", "amp/pair 1")).find("no cable fits") != std::string::npos);
        QVERIFY(refusal(lead(p, "a/net 4", "amp/net 1")).find("goes as a stream") != std::string::npos);
        QVERIFY(refusal(lead(p, "a/out 99", "amp/in 2")).find("no output") != std::string::npos);
        QVERIFY(run(p, lead(p, "", "amp/in 1")) && !p.device("amp")->feeds.count("in 1"));
        QVERIFY(refusal(lead(p, "", "amp/in 1")).find("nothing comes") != std::string::npos);
    }
    void phrases() {
        auto p = triangle();
        p.device("b")->name = "Shuttle recorder";
        QVERIFY(run(p, offerStream(p, "c", "one", {"net 1"})));
        const auto says = [&](const Result<Edit>& e, const char* what) {
            return refusal(e).find(what) != std::string::npos;
        };
        QVERIFY(run(p, sendPhrase(p, {"c/one"}, "> recorder in 3")));
        QCOMPARE(p.device("b")->receivers[1].inputs, Names{"net 3"});
        QVERIFY(run(p, sendPhrase(p, {"c/one"}, "recorder")));
        QCOMPARE(p.device("b")->receivers[2].inputs, Names{"net 4"});
        QVERIFY(run(p, sendPhrase(p, {"c/one"}, "> a 7")) && p.device("a")->receivers[0].inputs == Names{"net 7"});
        QVERIFY(says(sendPhrase(p, {"c/one"}, "> nobody"), "0 devices"));
        QVERIFY(says(sendPhrase(p, {"c/one"}, "> "), "say who"));
        QVERIFY(says(sendPhrase(p, {}, "> a"), "no stream"));
        p.device("a")->name = "First recorder";
        QVERIFY(says(sendPhrase(p, {"c/one"}, "> recorder"), "First recorder, Shuttle recorder"));
        QVERIFY(run(p, sendPhrase(p, {"c/one", "a/mix"}, "> shuttle net 20")));
        QCOMPARE(p.device("b")->receivers[4].inputs, (Names{"net 5", "net 6"}));
    }
};

LOOM_TEST(tst_wiring, TestWiring)
#include "tst_wiring.moc"
