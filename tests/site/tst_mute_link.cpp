// One mute in several devices, over a network and a clock of the test's own.
#ifndef Q_MOC_RUN
#include "site/mute_link.h"
#endif
#include "test.h"

using namespace loom;
using site::MuteLink;

namespace {

// Devices on one network; each may be cut off it.
struct Net {
    std::map<std::string, std::unique_ptr<MuteLink>> all{};
    std::set<std::string> cut{};
    double now = 100;
    int sent = 0;
    MuteLink& add(const std::string& serial, const std::set<std::string>& spaces, bool cuts = false) {
        auto& link = all[serial] = std::make_unique<MuteLink>(serial);
        link->setSpaces(spaces, cuts ? spaces : std::set<std::string>{}, now);
        return *link;
    }
    void step() { // 10 ms
        now += 0.01;
        for (auto& [from, link] : all)
            for (const auto& text : link->take(now)) {
                ++sent;
                for (auto& [to, other] : all)
                    if (to != from && !cut.count(to) && !cut.count(from))
                        (void)other->heard(text, now);
            }
    }
    void run(double seconds) {
        for (int i = 0; i < seconds * 100; ++i)
            step();
    }
    // Until all say the same as is wanted; s. More than a second: never.
    double until(const std::string& space, bool muted) {
        for (int i = 0; i <= 100; ++i) {
            if (std::all_of(all.begin(), all.end(), [&](const auto& one) { return one.second->muted(space) == muted; }))
                return i * 0.01;
            step();
        }
        return 99;
    }
};

} // namespace

class TestMuteLink : public QObject {
    Q_OBJECT
  private slots:
    void allFollowWithinATenthOfASecond() {
        Net net;
        auto& tap = net.add("tap", {"hall"});
        auto& slate = net.add("slate", {"hall"});
        net.add("heddle", {"hall"}, true);
        net.run(3);
        QVERIFY(!tap.known("hall") && tap.cut("hall", net.now)); // nobody has said anything yet
        tap.set("hall", true, net.now);
        QVERIFY(net.until("hall", true) < 0.1);
        slate.set("hall", false, net.now);
        QVERIFY(net.until("hall", false) < 0.1);
        // Two at once: one of them holds everywhere.
        tap.set("hall", true, net.now);
        slate.set("hall", false, net.now);
        net.run(0.1);
        QVERIFY(tap.muted("hall") == slate.muted("hall"));
        // In silence each tells about once a second.
        net.run(1);
        const int before = net.sent;
        net.run(10);
        QVERIFY(net.sent - before >= 27 && net.sent - before <= 33);
    }
    void whatWasCutOffAgreesAgainAndMutedWins() {
        Net net;
        auto& tap = net.add("tap", {"hall"});
        auto& heddle = net.add("heddle", {"hall"}, true);
        net.run(2);
        tap.set("hall", false, net.now);
        net.run(2);
        net.cut = {"tap"};
        net.run(4);
        QVERIFY(!tap.cut("hall", net.now)); // nobody is there who could cut the sound
        tap.set("hall", true, net.now);     // privacy is wanted
        heddle.set("hall", true, net.now);
        heddle.set("hall", false, net.now); // later, and without hearing of it
        net.run(3);
        QVERIFY(tap.muted("hall") && !heddle.muted("hall"));
        net.cut.clear();
        tap.plugged(net.now);
        QVERIFY(net.until("hall", true) < 0.1);
        net.run(0.1);
        QVERIFY(heddle.muted("hall") && tap.cut("hall", net.now));
        heddle.set("hall", false, net.now); // and goes on as ever
        QVERIFY(net.until("hall", false) < 0.1);
    }
    void whoComesLateIsTold() {
        Net net;
        auto& tap = net.add("tap", {"hall"});
        net.run(1);
        tap.set("hall", true, net.now);
        net.run(20);
        net.add("heddle", {"hall"}, true); // was without power
        QVERIFY(net.until("hall", true) < 0.1);
    }
    void losingPacketsIsNoMatter() {
        Net net;
        auto& tap = net.add("tap", {"hall"});
        auto& slate = net.add("slate", {"hall"});
        net.run(1);
        tap.set("hall", true, net.now);
        net.cut = {"slate"};
        net.step(); // the first is lost
        net.step();
        net.cut.clear();
        QVERIFY(net.until("hall", true) < 0.1);
        net.cut = {"slate"}; // all of a change is lost, for less than it is missed
        tap.set("hall", false, net.now);
        net.run(0.5);
        QVERIFY(slate.muted("hall"));
        net.cut.clear();
        net.run(1.1);
        QVERIFY(!slate.muted("hall"));
    }
    void openWallsMakeOneOfTwo() {
        Net net;
        auto& a = net.add("tap-a", {"tern"});
        auto& b = net.add("tap-b", {"plover"});
        auto& heddle = net.add("heddle", {"tern", "plover"}, true);
        net.run(1);
        a.set("tern", true, net.now);
        net.run(0.2);
        QVERIFY(!b.muted("plover"));
        heddle.join({"tern+plover"}, net.now); // the wall opens: what was muted stays so
        net.run(0.1);
        QVERIFY(a.muted("tern") && b.muted("plover"));
        b.set("plover", false, net.now);
        net.run(0.1);
        QVERIFY(!a.muted("tern") && !heddle.muted("tern"));
        heddle.join({}, net.now);
        b.set("plover", true, net.now);
        net.run(0.2);
        QVERIFY(!a.muted("tern") && b.muted("plover"));
    }
    void nothingForgedIsTaken() {
        MuteLink link("heddle");
        link.setSpaces({"hall"}, {"hall"}, 0);
        int told = 0;
        link.changed = [&](const std::string&, bool) { ++told; };
        const std::string good = R"({"loom":"mute","space":"hall","muted":true,"count":3,"by":"x","from":"x"})";
        for (const char* bad : {"", "{", "[]", R"({"loom":"who"})", R"({"loom":"mute"})",
                                R"({"loom":"mute","space":"hall","muted":1,"count":3,"by":"x","from":"x"})",
                                R"({"loom":"mute","space":"hall","muted":true,"count":-3,"by":"x","from":"x"})",
                                R"({"loom":"mute","space":"hall","muted":true,"count":1e30,"by":"x","from":"x"})",
                                R"({"loom":"mute","space":"other","muted":true,"count":3,"by":"x","from":"x"})",
                                R"({"loom":"mute","space":"hall","muted":true,"count":3,"by":"x","from":"heddle"})"})
            QVERIFY2(!link.heard(bad, 1), bad);
        QVERIFY(told == 0 && link.heard(good, 1) && told == 1 && link.muted("hall"));
        // With a key only what is signed with it.
        const auto key = site::newKeys().secret;
        MuteLink tap("tap"), sealed("sealed");
        tap.setSpaces({"hall"}, {}, 0);
        sealed.setSpaces({"hall"}, {"hall"}, 0);
        tap.setKey(key);
        sealed.setKey(key);
        QVERIFY(!sealed.heard(good, 1));
        tap.set("hall", true, 1);
        const auto text = tap.take(1).front();
        auto changed = text;
        changed.replace(changed.find("true"), 4, "false");
        QVERIFY(!sealed.heard(changed, 1) && sealed.heard(text, 1) && sealed.muted("hall"));
        QVERIFY(link.heard(text, 1)); // whoever has no key believes all
    }
};
LOOM_TEST(tst_mute_link, TestMuteLink)
#include "tst_mute_link.moc"
