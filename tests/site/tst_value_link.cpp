// Values between devices: asked, told, set once, given up; forged and repeated datagrams.
#include "site/value_link.h"
#include "test.h"
#include <nlohmann/json.hpp>

using namespace loom;
using site::ValueLink;

namespace {

constexpr const char* level = "desk/hall.gain";

// Two devices on one line that may lose everything, with one clock.
struct Pair {
    ValueLink slate{"52E0"}, desk{"00A3F1"};
    double now = 0, value = -6;
    bool cut = false;
    int sets = 0;
    std::vector<std::string> who, calls, lost, onWire;
    Pair() {
        slate.be({"slate"});
        desk.be({"desk"});
        desk.read = [this](const std::string& path) { return path == level ? std::optional(value) : std::nullopt; };
        desk.line = [](const std::string&) { return "on hook"; };
        desk.taken = [this](const std::string& path, double v, const std::string& by) {
            if (path != level)
                return false;
            value = v, ++sets, who.push_back(by);
            return true;
        };
        desk.called = [this](const std::string& path, const std::string& does, const std::string& number) {
            calls.push_back(path + " " + does + " " + number);
        };
        slate.gaveUp = [this](const std::string& path) { lost.push_back(path); };
        slate.want({level, "desk/chair@level", "desk/tel 1@line"});
    }
    void go(double seconds) {
        for (const double end = now + seconds; now < end; now += 0.02)
            for (auto [from, to] : {std::pair(&slate, &desk), {&desk, &slate}})
                for (const auto& text : from->take(now)) {
                    QVERIFY(text.size() <= ValueLink::longestDatagram);
                    onWire.push_back(text);
                    if (!cut)
                        (void)to->heard(text, now);
                }
    }
};

} // namespace

class TestValueLink : public QObject {
    Q_OBJECT
  private slots:
    void valuesFollow() {
        Pair p;
        QVERIFY(!p.slate.now(level));
        p.go(0.2);
        QCOMPARE(p.slate.now(level), std::optional(-6.0));
        QVERIFY(!p.slate.now("desk/chair@level"));
        QCOMPARE(p.slate.lineNow("desk/tel 1@line"), std::string("on hook"));
        p.value = -12.25;
        p.go(0.1);
        QCOMPARE(p.slate.now(level), std::optional(-12.25));
        // What does not change is not told again and again.
        p.go(1);
        p.onWire.clear();
        p.go(1);
        QVERIFY(p.onWire.size() <= 4);
        // Levels are told by a tenth of a decibel.
        p.desk.read = [](const std::string&) { return std::optional(-31.234); };
        p.go(0.1);
        QCOMPARE(p.slate.now("desk/chair@level"), std::optional(-31.2));
    }
    void setOnceAndSaidByWhom() {
        Pair p;
        p.go(0.2);
        p.slate.set(level, -20, "A touch surface", p.now);
        QCOMPARE(p.slate.now(level), std::optional(-20.0)); // at once, here
        p.go(0.06);
        QVERIFY(p.value == -20 && p.sets == 1 && p.who.back() == "A touch surface");
        p.go(2);
        QCOMPARE(p.sets, 1);
        for (double v = -20; v < 0; v += 1) // a finger that moves: the last one counts
            p.slate.set(level, v, "A touch surface", p.now);
        p.go(0.1);
        QVERIFY(p.value == -1 && p.sets == 2);
        // What it refuses is shown as it is again.
        p.desk.taken = [](const std::string&, double, const std::string&) { return false; };
        p.slate.set(level, 9, "A touch surface", p.now);
        p.go(0.3);
        QCOMPARE(p.slate.now(level), std::optional(-1.0));
        // Nobody sets what it does not show, nor a number that is none.
        p.slate.set("desk/other.gain", 3, "x", p.now);
        p.slate.set(level, std::nan(""), "x", p.now);
        p.go(0.1);
        QVERIFY(!p.slate.now("desk/other.gain"));
        p.slate.call("desk/tel 1@line", "dial", "2041", p.now);
        p.go(0.1);
        QCOMPARE(p.calls, (std::vector<std::string>{"desk/tel 1@line dial 2041"}));
    }
    void aCutIsNoticedAndMended() {
        Pair p;
        p.go(0.5);
        p.cut = true;
        p.slate.set(level, -30, "x", p.now);
        p.go(ValueLink::lostAfter + 1);
        QVERIFY(!p.slate.now(level)); // not known is not shown as known
        QCOMPARE(p.lost, std::vector<std::string>{level});
        QCOMPARE(p.value, -6.0);
        p.cut = false;
        p.go(1.2);
        QCOMPARE(p.slate.now(level), std::optional(-6.0)); // what was given up is not done later
        // A short cut loses nothing.
        p.cut = true;
        p.slate.set(level, -33, "x", p.now);
        p.go(0.3);
        p.cut = false;
        p.go(0.3);
        QCOMPARE(p.value, -33.0);
    }
    void repeatedByAStranger() {
        Pair p;
        p.go(0.2);
        p.slate.set(level, -20, "x", p.now);
        p.go(0.1);
        std::string recorded;
        for (const auto& text : p.onWire)
            if (text.find("\"set\"") != std::string::npos)
                recorded = text;
        QVERIFY(!recorded.empty());
        p.value = 0;
        QVERIFY(p.desk.heard(recorded, p.now)); // acknowledged, and not done again
        QCOMPARE(p.value, 0.0);
        // Nor by the device in its next life.
        ValueLink again("00A3F1");
        again.be({"desk"});
        bool done = false;
        again.taken = [&](const std::string&, double, const std::string&) { return done = true; };
        QVERIFY(!again.heard(recorded, p.now) && !done);
    }
    void aDeviceThatStartsAnew() {
        Pair p;
        p.go(0.5);
        p.desk = ValueLink("00A3F1");
        double value = 1;
        p.desk.be({"desk"});
        p.desk.read = [&](const std::string& path) { return path == level ? std::optional(value) : std::nullopt; };
        p.desk.taken = [&](const std::string&, double v, const std::string&) {
            value = v;
            return true;
        };
        p.slate.set(level, -15, "x", p.now); // it knows another life of it
        p.go(1.5);
        QVERIFY(value == -15 && p.slate.now(level) == std::optional(-15.0));
    }
    void keysAndForgeries() {
        Pair p;
        site::Key key{};
        key[0] = 7;
        p.desk.setKey(key);
        p.go(0.5);
        QVERIFY(!p.slate.now(level)); // one of them is not sealed
        p.slate.setKey(key);
        p.go(1.5);
        QCOMPARE(p.slate.now(level), std::optional(-6.0));
        p.slate.set(level, -20, "x", p.now);
        p.go(0.1);
        QCOMPARE(p.value, -20.0);
        std::string real;
        for (const auto& text : p.onWire)
            if (text.find("\"set\"") != std::string::npos && text.find("seal") != std::string::npos)
                real = text;
        auto forged = nlohmann::json::parse(real);
        forged["n"] = 999999, forged["value"] = 12;
        QVERIFY(!p.desk.heard(forged.dump(), p.now));
        forged.erase("seal");
        QVERIFY(!p.desk.heard(forged.dump(), p.now));
        QCOMPARE(p.value, -20.0);
    }
    void whatIsNoneOfIt() {
        Pair p;
        p.go(0.2);
        for (const char* text :
             {"", "{", "[]", "{\"loom\":\"values\"}",
              "{\"loom\":\"values\",\"do\":\"want\",\"from\":\"x\",\"to\":\"desk\"}",
              "{\"loom\":\"values\",\"do\":\"want\",\"from\":\"x\",\"to\":\"other\",\"paths\":[]}",
              "{\"loom\":\"values\",\"do\":\"set\",\"from\":\"x\",\"to\":\"desk\",\"path\":\"desk/"
              "hall.gain\",\"n\":-1,\"value\":3}",
              "{\"loom\":\"values\",\"do\":\"set\",\"from\":\"x\",\"to\":\"desk\",\"path\":\"other/"
              "hall.gain\",\"n\":1,\"value\":3}",
              "{\"loom\":\"values\",\"do\":\"told\",\"from\":\"x\",\"of\":\"desk\",\"values\":{\"desk/"
              "hall.gain\":\"loud\"}}",
              "{\"loom\":\"values\",\"do\":\"told\",\"from\":\"x\",\"of\":\"else\",\"values\":{\"desk/hall.gain\":3}}",
              "{\"loom\":\"mute\"}"}) {
            QVERIFY2(!p.desk.heard(text, p.now), text);
            QVERIFY2(!p.slate.heard(text, p.now), text);
        }
        QVERIFY(p.value == -6.0 && p.slate.now(level) == std::optional(-6.0));
        QVERIFY(!p.desk.heard(std::string(3000, ' '), p.now));
        // More than anybody shows is bounded.
        ValueLink greedy("1");
        std::set<std::string> many;
        for (std::size_t i = 0; i < ValueLink::mostPaths + 500; ++i)
            many.insert("desk/b" + std::to_string(i) + ".gain");
        greedy.want(many);
        for (const auto& text : greedy.take(0)) {
            QVERIFY(text.size() <= ValueLink::longestDatagram);
            (void)p.desk.heard(text, p.now);
        }
        for (const auto& text : p.desk.take(p.now + 1))
            QVERIFY(text.size() <= ValueLink::longestDatagram);
    }
};

LOOM_TEST(tst_value_link, TestValueLink)
#include "tst_value_link.moc"
