// Streams of devices that are nobody's here: taken by their descriptions, heard, renewed; and where sound comes from.
#ifndef Q_MOC_RUN
#include "model/history.h"
#include "patch/clock.h"
#include "patch/outside.h"
#include "patch/patch_edit.h"
#include "patch/ways.h"
#include "patch/wire_edit.h"
#endif
#include "models.h"
#include "test.h"

using namespace loom;
using namespace loom::project;

class TestOutside : public QObject {
    Q_OBJECT
    static Device device(const std::string& id, const std::string& model, const std::string& address) {
        Device d;
        d.id = d.name = id, d.model = model, d.models = test::models(), d.address = address;
        return d;
    }
    static Project two() {
        Project p;
        p.devices.push_back(device("a", "heddle-16", "10.0.0.1"));
        p.devices.push_back(device("sley", "sley-24", "10.0.0.2"));
        return p;
    }
    static stream::Description theirs() {
        stream::Description d;
        d.name = "Stage / left", d.session = 9, d.version = 1, d.origin = "10.7.0.9", d.address = "239.7.7.7";
        d.port = 5006, d.payload = 96;
        d.format = {stream::Encoding::l16, 4, 48000, 48};
        return d;
    }
    static bool run(Project& p, Result<Edit> edit) {
        if (!edit)
            qInfo("%s", edit.error().text().c_str());
        const auto done = edit ? History(p).run(std::move(*edit)) : Result<Change>(edit.error());
        if (!done)
            qInfo("%s", done.error().text().c_str());
        return bool(done);
    }
    static std::string refusal(const Result<Edit>& edit) { return edit ? std::string() : edit.error().text(); }

  private slots:
    void takenHeardRenewed() {
        auto p = two();
        auto d = theirs();
        QVERIFY(run(p, takeStream(p, d, test::models())));
        const auto key = takenStream(p, d);
        QCOMPARE(key, std::string("outside/stage-left"));
        const auto& out = *std::as_const(p).device("outside");
        QVERIFY(isOutside(out) && !isOutside(*std::as_const(p).device("a")) && out.name == "Others at 10.7.0.9");
        auto patched = patchedOf(p);
        const auto* o = patched.offer(key);
        QVERIFY(o && o->stream->name == "Stage - left" && o->stream->ports.size() == 4);
        QVERIFY(o->description.format == d.format && o->description.address == d.address &&
                o->description.port == 5006 && o->description.payload == 96 && o->description.origin == d.origin);
        // Heard like any other, though no cable of it is planned and others are.
        QVERIFY(run(p, layWire(p, {"a", "sley"})));
        QVERIFY(run(p, hearStream(p, key, "a", "net 5")));
        patched = patchedOf(p);
        auto wired = wiredOf(p, patched);
        QVERIFY(wired.network && wired.delivery(0)->runs && wired.delivery(0)->wires.empty());
        for (const auto& c : clocksOf(p, wired))
            for (const int n : c.order)
                QVERIFY(!isOutside(p.devices[static_cast<std::size_t>(n)]));
        // With a cable it goes over that one.
        QVERIFY(run(p, layWire(p, {"outside", "sley"})));
        wired = wiredOf(p, patchedOf(p));
        QCOMPARE(wired.delivery(0)->wires.size(), std::size_t(2));
        // A newer description takes its place; who hears it goes on.
        d.format.channels = 2, d.format.encoding = stream::Encoding::l24, d.version = 2;
        QVERIFY(run(p, takeStream(p, d, test::models())));
        QVERIFY(takenStream(p, d) == key && std::as_const(p).device("outside")->streams.size() == 1);
        QCOMPARE(patchedOf(p).offer(key)->description.format, d.format);
        // Another one of the same device, one of another, and one to a single receiver.
        auto second = d;
        second.port = 5008;
        QVERIFY(run(p, takeStream(p, second, test::models())));
        QCOMPARE(std::as_const(p).device("outside")->streams.size(), std::size_t(2));
        QVERIFY(std::as_const(p).device("outside")->streams[1].name == "Stage - left 2");
        auto slow = d;
        slow.format.rate = 44100, slow.format.frames = 44; // a device has one rate
        QVERIFY(run(p, takeStream(p, slow, test::models())));
        QVERIFY(takenStream(p, slow).starts_with("outside-2/") && std::as_const(p).device("outside-2")->rate == 44100);
        auto single = d;
        single.origin.clear(), single.address = "10.0.0.1", single.port = 6000;
        QVERIFY(run(p, takeStream(p, single, test::models())));
        QVERIFY(std::as_const(p).device("outside-3")->streams[0].unicast &&
                std::as_const(p).device("outside-3")->address.empty());
    }
    void whatCannotBeHeard() {
        const auto p = two();
        auto d = theirs();
        d.sealed = true;
        QVERIFY(refusal(takeStream(p, d, test::models())).find("encrypted") != std::string::npos);
        d = theirs();
        d.format.channels = 40;
        QVERIFY(refusal(takeStream(p, d, test::models())).find("40 channels") != std::string::npos);
        d = theirs();
        d.port = 80;
        QVERIFY(refusal(takeStream(p, d, test::models())).find("port 80") != std::string::npos);
        QVERIFY(takenStream(p, d).empty());
        // More than a device of others has outputs for.
        auto full = p;
        d = theirs();
        d.format = {stream::Encoding::l16, 80, 48000, 6};
        QVERIFY(run(full, takeStream(full, d, test::models())));
        d.port = 5008;
        QVERIFY(refusal(takeStream(full, d, test::models())).find("no room for 80") != std::string::npos);
    }
    void announcedByThemAndByUs() {
        auto p = two();
        QVERIFY(run(p, offerStream(p, "a", "hall-mix", {"net 1"})));
        stream::Directory known;
        const auto announce = [&](const stream::Description& d) {
            const auto text = stream::sdpText(d);
            QVERIFY(known.take(stream::sapPacket({false, stream::sapHashOf(text), d.origin, text}), 1));
        };
        announce(patchedOf(p).offers[0].description);
        auto d = theirs();
        announce(d);
        d.name = "Another", d.session = 10, d.address = "239.7.7.8";
        announce(d);
        auto all = announcedByOthers(patchedOf(p), known);
        QVERIFY(all.size() == 2 && all[0].description.name == "Another" && all[1].description.name == "Stage / left");
        QVERIFY(run(p, takeStream(p, all[0].description, test::models())));
        QCOMPARE(announcedByOthers(patchedOf(p), known).size(), std::size_t(1));
    }
    // From a loudspeaker's amplifier back over stream and program to the microphone.
    void whereSoundComesFrom() {
        const auto p = *test::load(LOOM_SOURCE_DIR "/demo/marram-point");
        const auto patched = patchedOf(p);
        const auto wired = wiredOf(p, patched);
        const SoundWays ways(p, patched, wired);
        const auto way = ways.back("treadle-4-foyer", "out 1", false);
        QVERIFY2(way.size() >= 4, std::to_string(way.size()).c_str());
        QVERIFY(way.front().device == "treadle-4-foyer" && !way.front().input && way.front().others >= 0);
        QVERIFY(way[1].device == "treadle-4-foyer" && way[1].input);
        QVERIFY(way[2].device != "treadle-4-foyer" && !way[2].input); // another device sends it
        QVERIFY(way[1].from == WayStep::Kind::packet || way[1].from == WayStep::Kind::ring);
        QCOMPARE(wordsOf(p, way.front()), p.device("treadle-4-foyer")->name + " \u00b7 out 1");
        // The loudest way is taken where several come.
        const auto& hub = way[2];
        const auto of = ways.inputsTo(hub.device + "/" + hub.port);
        QVERIFY(of.size() > 1);
        for (const auto& loud : of) {
            const auto by =
                ways.back(hub.device, hub.port, false, [&](const auto& device, const auto& port, bool input) {
                    return std::optional(input && device + "/" + port == loud ? -20.0 : -80.0);
                });
            QVERIFY(by.size() > 1 && by[1].device + "/" + by[1].port == loud && by[1].db == -20.0);
            QCOMPARE(by[0].others, static_cast<int>(of.size()) - 1);
        }
        QVERIFY(ways.back("nowhere", "out 1", false).empty());
        QCOMPARE(cameBefore(p, "treadle-4-foyer", "net 1"),
                 std::string("Before that: Heddle 8 \u00b7 rack A \u00b7 net 2, Heddle 8 \u00b7 rack A \u00b7 in 3."));
        QVERIFY(cameBefore(p, "heddle-8-rack-a", "usb 1").empty());
    }
};

LOOM_TEST(tst_outside, TestOutside)
#include "tst_outside.moc"
