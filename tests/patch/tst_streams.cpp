// Streams of a project: offered, heard, let go; addresses, what they take, and where sound then goes.
#ifndef Q_MOC_RUN
#include "file/project_json.h"
#include "model/history.h"
#include "patch/streams.h"
#include "rooms/room_copy.h"
#include "rooms/room_edit.h"
#include "voicings/room_sound.h"
#include <set>
#endif
#include "models.h"
#include "test.h"

using namespace loom;
using namespace loom::project;

class TestStreams : public QObject {
    Q_OBJECT
    static Device device(const std::string& id, const std::string& model, const std::string& address) {
        Device d;
        d.id = id;
        d.name = id + " rack";
        d.model = model;
        d.models = test::models();
        d.address = address;
        return d;
    }
    static Project three() {
        Project p;
        p.devices.push_back(device("a", "heddle-16", "10.0.0.1"));
        p.devices.push_back(device("b", "heddle-16", "10.0.0.2"));
        p.devices.push_back(device("c", "heddle-8", "10.0.0.3"));
        return p;
    }
    static bool run(Project& p, Result<Edit> edit) {
        if (!edit) {
            qInfo("%s", edit.error().text().c_str());
            return false;
        }
        return bool(History(p).run(std::move(*edit)));
    }
    static std::string refusal(const Result<Edit>& edit) { return edit ? std::string() : edit.error().text(); }

  private slots:
    void offeredHeardLetGo() {
        auto p = three();
        QVERIFY(run(p, offerStream(p, "a", "hall-mix", {"net 1", "net 2"})));
        auto offers = patchedOf(p).offers;
        QCOMPARE(offers.size(), std::size_t(1));
        QCOMPARE(offers[0].key, std::string("a/hall-mix"));
        QVERIFY(offers[0].description.multicast() && offers[0].description.address.starts_with("239.20."));
        QVERIFY(offers[0].description.origin == "10.0.0.1" && offers[0].description.format.channels == 2);
        QVERIFY(offers[0].heardBy.empty());
        QVERIFY(run(p, hearStream(p, "a/hall-mix", "b")));
        QVERIFY(run(p, hearStream(p, "a/hall-mix", "c", "net 3")));
        offers = patchedOf(p).offers;
        QCOMPARE(offers[0].heardBy, (std::vector<std::size_t>{0, 1}));
        const auto threads = streamThreads(p);
        QCOMPARE(threads.size(), std::size_t(4));
        QVERIFY(threads[0].fromPort == "net 1" && threads[0].toDevice == "b" && threads[0].toPort == "net 1");
        QVERIFY(threads[3].fromPort == "net 2" && threads[3].toDevice == "c" && threads[3].toPort == "net 4");
        // The same are leads, so that the rig, Site's table and rooms know of them.
        const auto leads = leadsOf(p);
        QCOMPARE(leads.size(), std::size_t(4));
        QVERIFY(leads[3].network && leads[3].to.text() == "c/net 4" && leads[3].gain == 1);
        QVERIFY(run(p, unhearStream(p, "a/hall-mix", "b")));
        QVERIFY(p.device("b")->receivers.empty() && streamThreads(p).size() == 2);
        QVERIFY(run(p, withdrawStream(p, "a/hall-mix")));
        QVERIFY(patchedOf(p).offers.empty() && patchedOf(p).hearings.empty());
    }
    void firstFreeInputs() {
        auto p = three();
        QVERIFY(run(p, offerStream(p, "a", "one", {"net 1"})));
        QVERIFY(run(p, offerStream(p, "a", "two", {"net 2", "net 3"})));
        p.device("b")->feeds["net 2"] = "c/net 1"; // one that is taken
        QVERIFY(run(p, hearStream(p, "a/one", "b")));
        QVERIFY(run(p, hearStream(p, "a/two", "b")));
        QCOMPARE(p.device("b")->receivers[0].inputs, std::vector<std::string>{"net 1"});
        QCOMPARE(p.device("b")->receivers[1].inputs, (std::vector<std::string>{"net 3", "net 4"}));
        QVERIFY(refusal(hearStream(p, "a/one", "b", "net 2")).find("hears something already") != std::string::npos);
        QVERIFY(refusal(hearStream(p, "a/one", "b", "net 99")).find("net 32") != std::string::npos);
        QVERIFY(refusal(hearStream(p, "a/one", "a")).find("itself") != std::string::npos);
        QVERIFY(refusal(hearStream(p, "a/none", "b")).find("no stream") != std::string::npos);
        QVERIFY(refusal(hearStream(p, "a/one", "nobody")).find("no device") != std::string::npos);
        std::vector<std::string> eight;
        for (int n = 1; n <= 8; ++n)
            eight.push_back("net " + std::to_string(n));
        QVERIFY(run(p, offerStream(p, "c", "eight", eight)));
        for (int n = 0; n < 3; ++n)
            QVERIFY(run(p, hearStream(p, "c/eight", "b")));
        QVERIFY(refusal(hearStream(p, "c/eight", "b")).find("4 free network inputs; eight has 8") != std::string::npos);
    }
    void whatIsRefused() {
        auto p = three();
        QVERIFY(run(p, offerStream(p, "a", "mix", {"net 1"})));
        const auto says = [&](const Result<Edit>& e, const char* what) {
            return refusal(e).find(what) != std::string::npos;
        };
        QVERIFY(says(offerStream(p, "b", "MIX", {"net 1"}), "is called \"mix\" already"));
        QVERIFY(run(p, offerStream(p, "b", "\xd0\x97\xd0\xb0\xd0\xbb", {"net 1"}))); // other scripts stay apart
        QVERIFY(run(p, offerStream(p, "b", "\xd0\x91\xd0\xb0\xd1\x80", {"net 1"})));
        QVERIFY(says(offerStream(p, "b", "", {"net 1"}), "no name"));
        QVERIFY(says(offerStream(p, "b", "a/b", {"net 1"}), "no name"));
        QVERIFY(says(offerStream(p, "b", "x", {"out 1"}), "no network output \"out 1\""));
        QVERIFY(says(offerStream(p, "b", "x", {}), "0 channels"));
        std::vector<std::string> many;
        for (int n = 1; n <= 11; ++n)
            many.push_back("net " + std::to_string(n));
        QVERIFY(says(offerStream(p, "b", "x", many), "holds 10 of them"));
        QVERIFY(run(p, offerStream(p, "b", "x", many, 24, 0.25)));
        QVERIFY(says(offerStream(p, "nobody", "y", {"net 1"}), "no device"));
        QVERIFY(says(withdrawStream(p, "a/none"), "no stream"));
        QVERIFY(says(unhearStream(p, "a/mix", "b"), "does not hear"));
        p.device("c")->soundNetwork = "other"; // the same name in another network is another stream
        QVERIFY(run(p, offerStream(p, "c", "mix", {"net 1"})));
        QVERIFY(!streamKey(p, "mix") && *streamKey(p, "c/mix") == "c/mix" && *streamKey(p, "A RACK/Mix") == "a/mix");
        QVERIFY(!streamKey(p, "none"));
    }
    void addresses() {
        auto p = three();
        std::vector<std::string> before;
        for (int n = 0; n < 12; ++n)
            QVERIFY(run(p, offerStream(p, n % 2 ? "a" : "b", "s" + std::to_string(n), {"net 1"})));
        for (const auto patched = patchedOf(p); const auto& o : patched.offers)
            before.push_back(o.description.address);
        QCOMPARE(std::set<std::string>(before.begin(), before.end()).size(), std::size_t(12));
        // One more, and one that was typed, leave the others where they are.
        QVERIFY(run(p, offerStream(p, "c", "more", {"net 1"})));
        p.device("c")->streams[0].address = "239.1.2.3";
        const auto after = patchedOf(p).offers;
        for (std::size_t n = 0; n < before.size(); ++n)
            QCOMPARE(after[n].description.address, before[n]);
        QCOMPARE(after.back().description.address, std::string("239.1.2.3"));
        // Somebody typed what another has by itself: that one moves.
        p.device("c")->streams[0].address = before[3];
        std::set<std::string> all;
        for (const auto patched = patchedOf(p); const auto& o : patched.offers)
            all.insert(o.description.address);
        QCOMPARE(all.size(), std::size_t(13));
        // To one receiver: its own address.
        p.device("c")->streams[0].unicast = true;
        QVERIFY(run(p, hearStream(p, "c/more", "b")));
        QCOMPARE(patchedOf(p).offers.back().description.address, std::string("10.0.0.2"));
    }
    void whatItTakes() {
        auto p = three();
        QVERIFY(run(p, offerStream(p, "a", "two", {"net 1", "net 2"})));
        QVERIFY(run(p, offerStream(p, "a", "alone", {"net 2"})));
        p.device("a")->streams[1].unicast = true;
        QVERIFY(run(p, hearStream(p, "a/two", "b")));
        QVERIFY(run(p, hearStream(p, "a/two", "b")));
        QVERIFY(run(p, hearStream(p, "a/alone", "b")));
        QVERIFY(run(p, hearStream(p, "a/alone", "c")));
        const auto patched = patchedOf(p);
        const auto out = patched.use("a"), in = patched.use("b");
        QVERIFY(out.flowsOut == 3 && out.flowsIn == 0 && out.channelsOut == 2);
        const double two = stream::loadOf({stream::Encoding::l24, 2, 48000, 48}).megabits(),
                     one = stream::loadOf({stream::Encoding::l24, 1, 48000, 48}).megabits();
        QVERIFY(std::abs(out.megabitsOut - (two + 2 * one)) < 1e-9);
        QVERIFY(in.flowsIn == 2 && in.channelsIn == 5 && std::abs(in.megabitsIn - (two + one)) < 1e-9);
    }
    void levelsAndChoice() {
        auto p = three();
        QVERIFY(run(p, offerStream(p, "a", "one", {"net 1"})));
        QVERIFY(run(p, offerStream(p, "c", "other", {"net 5"})));
        QVERIFY(run(p, hearStream(p, "a/one", "b")));
        auto& r = p.device("b")->receivers[0];
        r.streams.push_back("c/other");
        r.streams.push_back("c/gone");
        r.levelDb = -6;
        p.device("a")->streams[0].levelDb = -14;
        p.device("a")->streams[0].inverted = true;
        QVERIFY(std::abs(streamThreads(p)[0].gain + 0.1) < 1e-12);
        r.muted = true;
        QCOMPARE(std::abs(streamThreads(p)[0].gain), 0.0);
        r.muted = false;
        r.chosen = 1;
        QVERIFY(streamThreads(p)[0].fromDevice == "c" && streamThreads(p)[0].fromPort == "net 5");
        r.chosen = 2;
        QVERIFY(streamThreads(p).empty() && patchedOf(p).hearings[0].waits());
        // What is withdrawn leaves the list, and the choice stays on the same stream.
        r.chosen = 1;
        QVERIFY(run(p, withdrawStream(p, "a/one")));
        QCOMPARE(p.device("b")->receivers[0].streams, (std::vector<std::string>{"c/other", "c/gone"}));
        QCOMPARE(p.device("b")->receivers[0].chosen, 0);
    }
    void savedAndOpened() {
        auto p = three();
        QVERIFY(run(p, offerStream(p, "a", "hall \xc3\xbc", {"net 1", "net 2"}, 16, 0.125)));
        QVERIFY(run(p, hearStream(p, "a/hall \xc3\xbc", "b")));
        p.device("b")->receivers[0].inputs[0].clear();
        p.device("a")->soundNetwork = "main";
        const auto back = projectFromJson(toJson(p), test::models());
        QVERIFY2(bool(back), back ? "" : back.error().text().c_str());
        QVERIFY(*back->device("a") == *p.device("a") && *back->device("b") == *p.device("b"));
        p.device("a")->streams.push_back(p.device("a")->streams[0]); // two of one id
        QVERIFY(!projectFromJson(toJson(p), test::models()));
    }
    void copiedWithItsRoom() {
        auto p = three();
        Building b;
        b.id = "b1";
        Room r;
        r.id = "hall";
        r.name = "Hall";
        r.outline = {{0, 0}, {8, 0}, {8, 6}, {0, 6}};
        b.rooms.push_back(r);
        p.buildings.push_back(b);
        p.device("a")->room = p.device("b")->room = "hall";
        QVERIFY(run(p, offerStream(p, "a", "mix", {"net 1"})));
        QVERIFY(run(p, offerStream(p, "c", "music", {"net 1"})));
        QVERIFY(run(p, hearStream(p, "a/mix", "b")));
        QVERIFY(run(p, hearStream(p, "c/music", "b")));
        p.device("b")->feeds["in 1"] = "a/out 1";
        const auto copy = copyRoom(p, "hall", p, "Hall 2");
        QVERIFY(copy);
        std::string a2, b2;
        for (const auto& [id, d] : copy->renewed.devices)
            (d->streams.empty() ? b2 : a2) = id;
        const auto& to = *copy->renewed.devices.at(b2);
        QCOMPARE(to.receivers[0].streams, std::vector<std::string>{a2 + "/mix"});
        QCOMPARE(to.receivers[1].streams, std::vector<std::string>{"c/music"});
        QCOMPARE(to.feeds.at("in 1"), a2 + "/out 1");
        QCOMPARE(copy->renewed.devices.at(a2)->streams[0].name, std::string("mix 2"));
        QVERIFY(std::any_of(copy->renewed.list.begin(), copy->renewed.list.end(),
                            [](const Renewal& l) { return l.what == "stream" && l.after == "mix 2"; }));
    }
};

LOOM_TEST(tst_streams, TestStreams)
#include "tst_streams.moc"
