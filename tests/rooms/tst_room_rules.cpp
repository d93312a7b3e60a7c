// Rules, scripts, tests and outside devices come along when their room is copied, and mean the copy's things there.
#include "../rules/rules_demo.h"
#ifndef Q_MOC_RUN
#include "rooms/plan_clip.h"
#include "rooms/room_copy.h"
#endif

using namespace loom;
using namespace loom::project;
using namespace loom::test;

class TestRoomRules : public QObject {
    Q_OBJECT
    Project p_;

  private slots:
    void initTestCase() {
        p_ = rulesProject();
        p_.device("oak-tap")->room = "oak";
        Device rack;
        rack.id = "rack", rack.name = "Rack", rack.model = "heddle-16", rack.models = models();
        rack.program.emplace();
        engine::Block level;
        level.id = "level", level.kind = "level", level.label = "Rack";
        rack.program->blocks.push_back(level);
        p_.devices.push_back(rack);
        Scene s;
        s.id = "calm", s.name = "Calm", s.room = "oak", s.values = {{"box/speech.gain", -20}};
        p_.scenes.push_back(s);
        Script script;
        script.id = "count", script.name = "Count";
        script.text = "if get(\"mute:oak\") == 0 then set('box/music.gain', -30) end note(\"box is well\")";
        p_.scripts.push_back(script);
        OutsideKind kind;
        kind.id = "lamp", kind.name = "Lamp", kind.states = {{"on", "On", {"off", "on"}}};
        kind.states[0].set = "LAMP {value}";
        p_.outsideKinds.push_back(kind);
        OutsideDevice lamp;
        lamp.id = "lamp-1", lamp.name = "Lamp", lamp.kind = "lamp", lamp.room = "oak", lamp.address = "192.0.2.4:4000";
        lamp.processor = "box";
        p_.outside.push_back(lamp);
        addRule(p_, "tap",
                "when button:oak-tap becomes pressed\nonly if box/cut.muted is off\nthen recall Calm\n"
                "then set outside:lamp-1/on to on\nthen run Count")
            .room = "oak";
        addRule(p_, "other", "when wall:fold becomes open\nthen set rack/level.gain to -6").room = "oak";
        addRule(p_, "third", "when mute:oak becomes on\nthen wake the rule tap").room = "oak";
        addRule(p_, "elsewhere", "when wall:fold becomes open\nthen set rack/level.gain to -9").room = "elm";
        RehearsalTest t;
        t.id = "t", t.name = "The tap";
        t.when = {{1, "button:oak-tap", "pressed"}}, t.expect = {{2, "box/speech.gain", "-20"}};
        RehearsalTest rackToo = t;
        rackToo.id = "u", rackToo.name = "The rack";
        rackToo.expect.push_back({2, "rack/level.gain", "0"});
        p_.ruleTests = {t, rackToo};
    }

    void theyMeanTheCopies() {
        const auto copy = copyRoom(p_, "oak", p_, "Ash Room");
        QVERIFY(bool(copy));
        auto now = withCopy(p_, *copy);
        std::string box, tap;
        for (const auto& d : now.devices)
            if (d.room == copy->room)
                (d.model == "heddle-16" ? box : d.model == "tap" ? tap : tap.append("")) = d.id;
        QVERIFY(!box.empty() && !tap.empty() && box != "box");
        QCOMPARE(now.rules.size(), std::size_t(7)); // three come along
        const auto& first = now.rules[4];
        QCOMPARE(first.room, copy->room);
        QVERIFY(first.on && first.id != "tap" && first.name != now.rules[0].name);
        QCOMPARE(first.when[0]["signal"], "button:" + tap);
        QCOMPARE(first.only[0]["signal"], box + "/cut.muted");
        const auto* scene = now.scene(first.then[0]["scene"]);
        QVERIFY(scene && scene->id != "calm" && scene->values.count(box + "/speech.gain"));
        const auto lamp = first.then[1]["signal"];
        QCOMPARE(now.outside.size(), std::size_t(2));
        QCOMPARE(lamp, "outside:" + now.outside[1].id + "/on");
        QVERIFY(now.outside[1].address.empty() && now.outside[1].processor == box && now.outside[1].room == copy->room);
        QCOMPARE(now.outsideKinds.size(), std::size_t(1));
        const auto* script = now.script(first.then[2]["script"]);
        QVERIFY(script && script->id != "count");
        QVERIFY2(script->text == "if get(\"mute:" + copy->room + "\") == 0 then set('" + box +
                                     "/music.gain', -30) end note(\"box is well\")",
                 script->text.c_str());
        // One that would set what stays is switched off, and says so; the wall stays the wall.
        const auto& second = now.rules[5];
        QVERIFY(!second.on && second.when[0]["signal"] == "wall:fold" && second.then[0]["signal"] == "rack/level.gain");
        QVERIFY(std::any_of(copy->renewed.list.begin(), copy->renewed.list.end(), [](const auto& r) {
            return r.what == "rule" && r.after.find("switched off") != std::string::npos;
        }));
        QCOMPARE(now.rules[6].when[0]["signal"], "mute:" + copy->room);
        QCOMPARE(now.rules[6].then[0]["rule"], first.id);
        // A test comes along where all it looks at did; it holds there as it did here.
        QCOMPARE(now.ruleTests.size(), std::size_t(3));
        QCOMPARE(now.ruleTests[2].expect[0].signal, box + "/speech.gain");
        QVERIFY2(runTest(now, now.ruleTests[0]).passed, runTest(now, now.ruleTests[0]).failure.c_str());
        QVERIFY2(runTest(now, now.ruleTests[2]).passed, runTest(now, now.ruleTests[2]).failure.c_str());
    }

    void intoAnotherProject() {
        Project other;
        const auto copy = copyRoom(p_, "oak", other, "");
        QVERIFY(bool(copy));
        const auto now = withCopy(other, *copy);
        QVERIFY(now.rules.size() == 3 && now.scripts.size() == 1 && now.outsideKinds.size() == 1 &&
                now.ruleTests.size() == 1 && now.outside.size() == 1);
        QCOMPARE(now.scripts[0].id, std::string("count"));
    }

    void overTheClipboard() {
        const auto text = clipOf(p_, {"room:oak"});
        QVERIFY(!text.empty());
        const auto edit = pasteClip(p_, text, models(), "", {40, 0}, nullptr);
        QVERIFY2(bool(edit), edit ? "" : edit.error().text().c_str());
        const auto now = edit->make(p_);
        QVERIFY(now && now->rules.size() == 7 && now->ruleTests.size() == 3 && now->outside.size() == 2);
    }
};

LOOM_TEST(tst_room_rules, TestRoomRules)
#include "tst_room_rules.moc"
