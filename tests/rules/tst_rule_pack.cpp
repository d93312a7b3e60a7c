// Rules and scenes as devices hold them: packed, read, put back; where each has its home.
#include "models.h"
#include "rules/rule_home.h"
#include "rules/rule_pack.h"
#include "rules_demo.h"
#include "test.h"
#include <nlohmann/json.hpp>

using namespace loom;
using namespace loom::project;
using nlohmann::json;

class TestRulePack : public QObject {
    Q_OBJECT
    static Project withScenes() {
        auto p = test::rulesProject();
        for (const auto& [id, values] :
             {std::pair("quiet", std::map<std::string, double>{{"box/speech.gain", -20.25}, {"box/music.gain", -60}}),
              {"loud", {{"box/speech.gain", 3}, {"gone/none.gain", 1}}},
              {"none", {}}}) {
            Scene s;
            s.id = id, s.name = id, s.room = "oak", s.values = values, s.fade = 2;
            p.scenes.push_back(s);
        }
        return p;
    }

  private slots:
    void scenesComeBackAsTheyWere() {
        const auto p = withScenes();
        const auto text = packRules(p, "box");
        const auto pack = unpackRules(text, test::models());
        QVERIFY2(bool(pack), pack ? "" : pack.error().text().c_str());
        for (const auto& s : p.scenes) {
            const auto* there = pack->project.scene(s.id);
            QVERIFY2(there && there->values == s.values && there->name == s.name && there->fade == s.fade,
                     s.id.c_str());
        }
        // A path stands there once, in however many scenes.
        auto scenes = p;
        for (int i = 0; i < 50; ++i) {
            auto s = p.scenes[0];
            s.id = s.name = "s" + std::to_string(i);
            scenes.scenes.push_back(s);
        }
        const auto many = packRules(scenes, "box");
        std::size_t times = 0;
        for (auto at = many.find("box/music.gain"); at != std::string::npos; at = many.find("box/music.gain", at + 1))
            ++times;
        QCOMPARE(times, std::size_t(1));
    }
    void packsOfEarlierVersionsAreRead() { // which had the values in the scenes
        const auto p = withScenes();
        auto j = json::parse(packRules(p, "box"));
        j.erase("scenes");
        for (auto& s : j["project"]["scenes"])
            s["values"] = json(p.scene(s["id"].get<std::string>())->values);
        const auto pack = unpackRules(j.dump(), test::models());
        QVERIFY2(bool(pack), pack ? "" : pack.error().text().c_str());
        for (const auto& s : p.scenes)
            QCOMPARE(pack->project.scene(s.id)->values, s.values);
    }
    void whatIsNoneIsRefused() {
        const auto good = json::parse(packRules(withScenes(), "box"));
        QVERIFY(bool(unpackRules(good.dump(), test::models())));
        const auto n = good["scenes"]["paths"].size();
        const auto refused = [&](const char* what, auto how) {
            auto bad = good;
            how(bad["scenes"]);
            const auto pack = unpackRules(bad.dump(), test::models());
            QVERIFY2(!pack && pack.error().place == "rules/scenes", what);
        };
        refused("paths", [](json& j) { j["paths"] = 3; });
        refused("a path", [](json& j) { j["paths"][0] = 3; });
        refused("values", [](json& j) { j["values"] = json::array(); });
        refused("a list", [](json& j) { j["values"]["loud"] = "x"; });
        refused("half", [](json& j) { j["values"]["loud"] = {0}; });
        refused("no path", [n](json& j) { j["values"]["loud"] = json::array({n, 1}); });
        refused("below", [](json& j) { j["values"]["loud"] = json::array({-1, 1}); });
        refused("between", [](json& j) { j["values"]["loud"] = json::array({0.5, 1}); });
        refused("no number", [](json& j) { j["values"]["loud"] = json::array({0, "1"}); });
        refused("another scene", [](json& j) { j["values"]["who"] = json::array({0, 1}); });
        refused("whole", [](json& j) { j = "x"; });
        auto bad = good;
        bad["scenes"]["values"]["loud"] = json::array({n - 1, 7});
        const auto pack = unpackRules(bad.dump(), test::models()); // the last path is one
        QVERIFY(pack && pack->project.scene("loud")->values.size() == 1);
    }
    void homesAreTheSameOneByOne() {
        const auto p = *test::load(LOOM_SOURCE_DIR "/demo/marram-point");
        Homes homes(p);
        for (const auto& r : p.rules) {
            const auto one = homeOf(p, r), all = homes.of(r);
            QVERIFY2(one.device == all.device && one.others == all.others && !one.device.empty(), r.id.c_str());
        }
        for (const auto& s : p.scenes)
            QCOMPARE(homes.of(s).device, homeOf(p, s).device);
        QCOMPARE(homeOf(p, *p.rule("closing-call")).device, std::string("heddle-8-rack-a"));
        QCOMPARE(homeOf(p, *p.rule("a-film-begins")).device, std::string("heddle"));
        QCOMPARE(homes.teller("wall:fold"), std::string("heddle-8-rack-a"));
        QCOMPARE(homes.teller("outside:hall-display/power"), std::string("heddle"));
        QVERIFY(homes.teller("heddle/none.gain").empty() && !homes.signal("heddle/none.gain"));
        QCOMPARE(shareOf(p, "heddle").rules.size() + shareOf(p, "heddle-8-rack-a").rules.size(), p.rules.size());
    }
};

LOOM_TEST(tst_rule_pack, TestRulePack)
#include "tst_rule_pack.moc"
