// What a scene does to its room: who is heard twice, how much louder it gets, what is left before feedback. The truth
// is reckoned by hand from distances and levels.
#ifndef Q_MOC_RUN
#include "models.h"
#include "rules/scene_figures.h"
#endif
#include "test.h"
#include <cmath>

using namespace loom;
using namespace loom::project;

class TestSceneFigures : public QObject {
    Q_OBJECT
    // One talker in a room of 10 x 8 m, two microphones before him at these distances, both to one loudspeaker.
    static Project hall(double first, double second, const char* mixer = "matrix") {
        Project p;
        Building b;
        b.id = b.name = "house";
        Room r;
        r.id = "hall", r.name = "Hall", r.outline = {{0, 0}, {10, 0}, {10, 8}, {0, 8}}, r.height = 3;
        r.talkers.push_back({"speaker", "Speaker", 2, 4, 1.2});
        Seats seats;
        seats.id = "seats", seats.x = 6, seats.y = 4, seats.rows = 3, seats.across = 4;
        r.seats = {seats};
        b.rooms.push_back(r);
        p.buildings.push_back(b);
        const auto device = [&](const char* id, const char* model, double x, double y, double z) -> Device& {
            Device d;
            d.id = d.name = id, d.model = model, d.room = "hall", d.models = test::models();
            d.place.placed = x >= 0, d.place.x = x, d.place.y = y, d.place.z = z;
            p.devices.push_back(d);
            return *p.device(id);
        };
        device("near", "reed-g40", 2 + first, 4, 1.2);
        device("far", "reed-g40", 2 + second, 4, 1.2);
        device("loudspeaker", "bobbin-c6", 7, 4, 3).feeds["in"] = "amplifier/out 1";
        device("amplifier", "treadle-4", -1, 0, 0).feeds["in 1"] = "box/out 1";
        auto& box = device("box", "heddle-16", -1, 0, 0);
        box.feeds = {{"in 1", "near/out 1"}, {"in 2", "far/out 1"}};
        box.program.emplace();
        const auto block = [&](const char* id, const char* kind, const char* port,
                               std::map<std::string, double> values) {
            engine::Block one;
            one.id = id, one.kind = kind, one.values = std::move(values);
            if (*port)
                one.texts["port"] = port;
            box.program->blocks.push_back(one);
        };
        const auto lead = [&](const char* from, const char* to, int in, int out = 0) {
            box.program->connections.push_back({{from, out}, {to, in}});
        };
        block("in-1", "source", "in 1", {}), block("in-2", "source", "in 2", {});
        block("a", "level", "", {}), block("b", "level", "", {});
        block("mix", mixer, "", {{"1.1", 0}, {"2.1", 0}});
        block("out", "destination", "out 1", {}), block("other", "destination", "out 2", {});
        lead("in-1", "a", 0), lead("in-2", "b", 0), lead("a", "mix", 0), lead("b", "mix", 1), lead("mix", "out", 0);
        Scene s;
        s.id = s.name = "now", s.room = "hall";
        p.scenes.push_back(s);
        return p;
    }
    static SceneFigures of(Project p, const std::map<std::string, double>& values) {
        p.scene("now")->values = values; // one without values recalls nothing
        p.scene("now")->values.try_emplace("box/a.gain", 0);
        return figuresOf(p, *p.scene("now"));
    }

  private slots:
    void threeTimesAsFarIsEnough() {
        const auto close = of(hall(0.3, 0.3 * 2.9), {});
        QCOMPARE(close.twice.size(), std::size_t(1));
        QVERIFY(close.twice[0].talker == "Speaker" && close.twice[0].first == "near" && close.twice[0].second == "far");
        QVERIFY(std::abs(close.twice[0].lower - 20 * std::log10(2.9)) < 0.05);
        QVERIFY(of(hall(0.3, 0.3 * 3.1), {}).twice.empty());
        // The nearer is the first, whichever it is.
        QCOMPARE(of(hall(0.6, 0.3), {}).twice.at(0).first, std::string("far"));
    }
    void levelsCount() {
        const auto p = hall(0.3, 0.3 * 1.3);
        const auto lower = of(p, {{"box/b.gain", -6}}).twice;
        QCOMPARE(lower.size(), std::size_t(1));
        QVERIFY(std::abs(lower[0].lower - (6 + 20 * std::log10(1.3))) < 0.05);
        QVERIFY(of(p, {{"box/b.gain", -8}}).twice.empty()); // 2.3 + 8 dB
        QVERIFY(of(p, {{"box/b.mute", 1}}).twice.empty());
        // The louder is the first, though it is farther.
        const auto louder = of(p, {{"box/b.gain", 6}}).twice;
        QVERIFY(louder.size() == 1 && louder[0].first == "far" &&
                std::abs(louder[0].lower - (6 - 20 * std::log10(1.3))) < 0.05);
        // What the design mutes and the scene opens.
        auto muted = p;
        muted.device("box")->program->find("b")->values["mute"] = 1;
        QVERIFY(of(muted, {}).twice.empty() && of(muted, {{"box/b.mute", 0}}).twice.size() == 1);
    }
    void whoIsNotHeardTwice() {
        QVERIFY(of(hall(0.3, 0.5, "automixer"), {}).twice.empty()); // it holds one of both back
        auto apart = hall(0.3, 0.5);
        auto& program = *apart.device("box")->program;
        program.find("mix")->values = {{"1.1", 0}, {"2.2", 0}}; // each to an output of its own
        program.connections.push_back({{"mix", 1}, {"other", 0}});
        apart.device("amplifier")->feeds["in 2"] = "box/out 2";
        QVERIFY(of(apart, {}).twice.empty());
        program.find("mix")->values = {{"1.2", 0}, {"2.2", 0}};
        QCOMPARE(of(apart, {}).twice.size(), std::size_t(1)); // both to the other
        apart.device("amplifier")->feeds.erase("in 2");
        QVERIFY(of(apart, {}).twice.empty()); // which drives nothing
        auto loose = hall(0.3, 0.5);
        loose.device("far")->place.placed = false;
        QVERIFY(of(loose, {}).twice.empty());
        auto lone = hall(0.3, 0.5);
        lone.scene("now")->room.clear();
        QVERIFY(figuresOf(lone, *lone.scene("now")).space.empty());
        lone.scene("now")->room = "nowhere";
        QVERIFY(figuresOf(lone, *lone.scene("now")).space.empty());
    }
    void louderIsLouderAndLeavesLess() {
        const auto p = hall(0.3, 2);
        const auto same = of(p, {}), up = of(p, {{"box/a.gain", 4}, {"box/b.gain", 4}}),
                   down = of(p, {{"box/a.gain", -5}, {"box/b.gain", -5}});
        QVERIFY(same.level && same.levelThen && same.spare && same.spareThen);
        QCOMPARE(same.space, std::string("Hall"));
        QVERIFY(std::abs(*same.levelThen - *same.level) < 1e-6 && std::abs(*same.spareThen - *same.spare) < 1e-6);
        QVERIFY(std::abs(*up.levelThen - *up.level - 4) < 0.01 && std::abs(*up.spare - *up.spareThen - 4) < 0.01);
        QVERIFY(std::abs(*down.levelThen - *down.level + 5) < 0.01 &&
                std::abs(*down.spareThen - *down.spare - 5) < 0.01);
        // One that is muted counts no longer; with both there is nobody to hear.
        const auto one = of(p, {{"box/a.mute", 1}});
        QVERIFY(one.spareThen && one.microphone == "far");
        const auto none = of(p, {{"box/a.mute", 1}, {"box/b.mute", 1}});
        QVERIFY(!none.levelThen && !none.spareThen && none.microphone.empty());
    }
};

LOOM_TEST(tst_scene_figures, TestSceneFigures)
#include "tst_scene_figures.moc"
