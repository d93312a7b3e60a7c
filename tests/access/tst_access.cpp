// Control from outside without sockets: what may be known and set, in lines of text, as JSON and in OSC.
#ifndef Q_MOC_RUN
#include "access/access_edit.h"
#include "access/json_seat.h"
#include "access/line_seat.h"
#include "access/osc_door.h"
#include "file/project_json.h"
#include "rules/rule_pack.h"
#include "schema/json_text.h"
#endif
#include "../rules/rules_demo.h"

using namespace loom;
using namespace loom::project;
using nlohmann::json;

namespace {

// The box of the small project, with a wall's contact, a scene and what is allowed of it.
Project hall() {
    auto p = test::rulesProject();
    p.device("box")->contacts["contact 1"] = "wall fold oak+elm";
    Scene s;
    s.id = "meeting", s.name = "Meeting", s.room = "oak";
    s.values["box/speech.gain"] = -10;
    p.scenes.push_back(s);
    return p;
}

struct Device1 { // what stands for the device
    std::map<std::string, double> values{{"box/speech.gain", -20}, {"box/cut.muted", 0}, {"wall:fold", 0}};
    std::vector<std::string> done{};
    std::map<std::string, std::string> pins{{"technician", "2468"}};
    bool there = true;
    AccessHost::Owner owner() {
        AccessHost::Owner o;
        o.now = [this](const std::string& s) {
            const auto it = values.find(s);
            return it == values.end() ? std::nullopt : std::optional(it->second);
        };
        o.set = [this](const std::string& s, double v, const std::string& who) {
            if (there)
                values[s] = v, done.push_back(s + " by " + who);
            return there;
        };
        o.call = [this](const std::string& line, const std::string& does, const std::string& number,
                        const std::string& who) -> Result<Done> {
            if (!there)
                return Error{"nobody is there", line, "Try again."};
            done.push_back(line + " " + does + " " + number + " by " + who);
            return Done{};
        };
        o.give = [this](const std::string& m) {
            done.push_back(m);
            return m != "cue:nobody";
        };
        o.admit = [this](const std::string& role, const std::string& pin, const std::string&) -> Result<Done> {
            return pins[role] == pin ? Result<Done>(Done{}) : Error{"that PIN is wrong", role, ""};
        };
        return o;
    }
};

Access access() {
    Access a;
    a.id = "box";
    a.allowed = {{"hall/level", "box/speech.gain", true},
                 {"hall/mute", "box/cut.muted", true, "technician"},
                 {"wall", "wall:fold", true},
                 {"meeting", "scene:meeting", true},
                 {"close", "cue:closing", true},
                 {"lost", "cue:nobody", true},
                 {"look", "box/speech.gain", false},
                 {"gone", "box/nothing.gain", true},
                 {"No Name", "box/music.gain", true}};
    a.allowed[0].low = -40, a.allowed[0].high = 0;
    return a;
}

struct Bench {
    Device1 device{};
    AccessHost host{device.owner()};
    Bench() { host.serve(hall(), access()); }
    std::vector<std::optional<double>> values() const {
        std::vector<std::optional<double>> all;
        for (const auto& i : host.items())
            all.push_back(host.now(i));
        return all;
    }
};

std::string said(LineSeat& seat, const std::string& line, double now = 0) {
    seat.received(line + "\r\n", now);
    auto out = seat.take();
    while (!out.empty() && (out.back() == '\n' || out.back() == '\r'))
        out.pop_back();
    return out;
}

} // namespace

class TestAccess : public QObject {
    Q_OBJECT

  private slots:
    void linesOfText() {
        Bench b;
        LineSeat s(b.host, "192.0.2.7");
        QCOMPARE(said(s, "get hall/level"), "is hall/level -20");
        QCOMPARE(said(s, "set hall/level -6"), "is hall/level -6");
        QCOMPARE(b.device.done, std::vector<std::string>{"box/speech.gain by Control from outside (192.0.2.7)"});
        QCOMPARE(said(s, "  set\thall/level   -6.5 dB "), "is hall/level -6.5");
        QCOMPARE(said(s, "step hall/level 3"), "is hall/level -3.5");
        QCOMPARE(said(s, "step hall/level 30"), "is hall/level 0"); // where the range ends
        QCOMPARE(said(s, "step hall/level -300"), "is hall/level -40");
        QVERIFY(said(s, "set hall/level 3").rfind("error hall/level: is outside what is allowed", 0) == 0);
        QVERIFY(said(s, "set hall/level loud").rfind("error hall/level: ", 0) == 0);
        QVERIFY(said(s, "step hall/level nan").rfind("error ", 0) == 0);
        QCOMPARE(b.device.values["box/speech.gain"], -40.0);
        QCOMPARE(said(s, "get wall"), "is wall closed");
        QVERIFY(said(s, "set wall open").rfind("error wall: may not be set", 0) == 0); // nobody can
        QVERIFY(said(s, "set look -3").rfind("error look: may not be set", 0) == 0);
        QCOMPARE(said(s, "give meeting"), "ok");
        QCOMPARE(said(s, "give close"), "ok");
        QCOMPARE(b.device.done.back(), "cue:closing");
        QVERIFY(said(s, "give lost").rfind("error lost: nobody takes it", 0) == 0);
        QVERIFY(said(s, "get meeting").rfind("error meeting: is a moment", 0) == 0);
        QVERIFY(said(s, "set meeting 1").rfind("error meeting: is a moment", 0) == 0);
        QVERIFY(said(s, "give hall/level").rfind("error hall/level: is a value", 0) == 0);
        QVERIFY(said(s, "toggle hall/level").rfind("error hall/level: is not on or off", 0) == 0);
        for (const auto* odd : {"get", "get a b", "set hall/level", "list all", "leap", "get gone", "pin technician"})
            QVERIFY2(said(s, odd).rfind("error ", 0) == 0, odd);
        QCOMPARE(said(s, ""), "");
        b.device.there = false;
        QCOMPARE(said(s, "set hall/level -9"), "error hall/level: it cannot be set now. Try again.");
        b.device.values.clear();
        QCOMPARE(said(s, "get hall/level"), "is hall/level unknown");
        QVERIFY(said(s, "step hall/level 1").rfind("error hall/level: it is not known", 0) == 0);
        QVERIFY(!s.over());
        QCOMPARE(said(s, "bye"), "");
        QVERIFY(s.over());
    }

    void telephoneLinesAreCalled() {
        Bench b;
        Access a = access();
        a.allowed.push_back({"phone", "box/tel 1@line", true});
        a.allowed.push_back({"state", "box/tel 1@line", false});
        b.host.serve(hall(), a);
        b.device.values["box/tel 1@line"] = 4;
        LineSeat s(b.host, "192.0.2.7");
        const std::string by = " by Control from outside (192.0.2.7)";
        for (const auto& [typed, does] : {std::pair("dial 2041", "dial 2041"),
                                          {"dial +49 30 2041", "dial +49302041"},
                                          {"answer", "answer "},
                                          {"hang up", "hang-up "},
                                          {"hang-up", "hang-up "},
                                          {"keys 12#*", "keys 12#*"}}) {
            QCOMPARE(said(s, std::string("set phone ") + typed), "is phone in a call");
            QCOMPARE(b.device.done.back(), std::string("box/tel 1@line ") + does + by);
        }
        const auto before = b.device.done.size();
        for (const auto* odd : {"dial", "dial x", "keys", "keys +1", "answer 3", "hang", "up", "hold", "in a call", "4",
                                "dial 20 41 x", "dial 12345678901234567890123456789012345678901"})
            QVERIFY2(said(s, std::string("set phone ") + odd).rfind("error phone: ", 0) == 0, odd);
        QCOMPARE(said(s, "set phone dial 1234567890123456789012345678901234567890"), "is phone in a call");
        QCOMPARE(b.device.done.size(), before + 1);
        QVERIFY(said(s, "toggle phone").rfind("error phone: is a telephone line", 0) == 0);
        QVERIFY(said(s, "step phone 1").rfind("error phone: is a telephone line", 0) == 0);
        QVERIFY(said(s, "set state dial 1").rfind("error state: may not be set", 0) == 0);
        QVERIFY(said(s, "list").find("has phone calls on hook, dialling,") != std::string::npos &&
                said(s, "list").find("has state tells on hook, dialling,") != std::string::npos);
        b.device.there = false;
        QCOMPARE(said(s, "set phone dial 1"), "error phone: nobody is there. Try again.");
        b.device.there = true;
        OscDoor osc(b.host);
        OscMessage m;
        m.path = "/phone", m.arguments = {std::string("dial 77")};
        (void)osc.received(*oscBytes(m), "192.0.2.7", 0);
        QCOMPARE(b.device.done.back(), "box/tel 1@line dial 77" + by);
        m.arguments = {1}; // a number is no call
        (void)osc.received(*oscBytes(m), "192.0.2.7", 1);
        QCOMPARE(b.device.done.back(), "box/tel 1@line dial 77" + by);
    }

    void whatIsListed() {
        Bench b;
        LineSeat s(b.host, "x");
        QCOMPARE(said(s, "list"),
                 "has hall/level sets -40 0\r\nhas wall tells closed, open\r\nhas meeting gives\r\nhas close "
                 "gives\r\nhas lost gives\r\nhas look tells off 12\r\nok");
        QCOMPARE(said(s, "pin technician 2468"), "ok");
        QVERIFY(said(s, "list").find("\r\nhas hall/mute sets off, on\r\n") != std::string::npos);
    }

    void pinsOfRoles() {
        Bench b;
        LineSeat s(b.host, "x"), other(b.host, "y");
        QCOMPARE(said(s, "get hall/mute"), "error hall/mute: asks for the PIN of technician.");
        QCOMPARE(said(s, "toggle hall/mute"), "error hall/mute: asks for the PIN of technician.");
        QCOMPARE(said(s, "watch hall/mute"), "error hall/mute: asks for the PIN of technician.");
        QCOMPARE(said(s, "pin technician 1111"), "error technician: that PIN is wrong.");
        QVERIFY(said(s, "pin chair 2468").rfind("error chair: there is no such role", 0) == 0);
        QCOMPARE(said(s, "pin technician 2468"), "ok");
        QCOMPARE(said(s, "toggle hall/mute"), "is hall/mute on");
        QCOMPARE(said(s, "toggle hall/mute"), "is hall/mute off");
        QVERIFY(said(other, "get hall/mute").rfind("error ", 0) == 0); // each says its own
        b.host.pinsChanged();
        QVERIFY(said(s, "get hall/mute").rfind("error ", 0) == 0);
        QCOMPARE(said(s, "pin technician 2468"), "ok");
        QCOMPARE(said(s, "leave"), "ok");
        QVERIFY(said(s, "get hall/mute").rfind("error ", 0) == 0);
    }

    void whatIsWatched() {
        Bench b;
        LineSeat s(b.host, "x");
        QCOMPARE(said(s, "watch hall/level"), "ok");
        s.tell(b.values());
        QCOMPARE(s.take(), "is hall/level -20\r\n"); // how it is
        s.tell(b.values());
        QCOMPARE(s.take(), "");
        b.device.values["box/speech.gain"] = -12;
        b.device.values["wall:fold"] = 1;
        s.tell(b.values());
        QCOMPARE(s.take(), "is hall/level -12\r\n");
        QCOMPARE(said(s, "set hall/level -3"), "is hall/level -3");
        s.tell(b.values());
        QCOMPARE(s.take(), ""); // it was the answer
        QCOMPARE(said(s, "watch all"), "ok");
        s.tell(b.values());
        QCOMPARE(s.take(), "is hall/level -3\r\nis wall open\r\nis look -3\r\n"); // and nothing that asks for a PIN
        b.device.values.erase("wall:fold");
        s.tell(b.values());
        QCOMPARE(s.take(), "is wall unknown\r\n");
        QCOMPARE(said(s, "ignore all"), "ok");
        b.device.values["box/speech.gain"] = -1;
        s.tell(b.values());
        QCOMPARE(s.take(), "");
    }

    // Bytes come in any pieces, with any ends of lines.
    void piecesOfLines() {
        Bench b;
        LineSeat s(b.host, "x");
        for (const char c : std::string("get wall\nget wall\rget wall\r\n"))
            s.received({&c, 1}, 0);
        QCOMPARE(s.take(), "is wall closed\r\nis wall closed\r\nis wall closed\r\n");
        s.received(std::string(100000, 'x'), 0);
        QCOMPARE(s.take(), "");
        s.received("\nget wall\n", 0);
        QCOMPARE(s.take(), "error a line is longer than 500 bytes.\r\nis wall closed\r\n");
        s.received(std::string("get \0\x01\xff\n", 8), 0);
        const auto odd = s.take();
        QVERIFY(odd.rfind("error ", 0) == 0 && odd.find('\0') == std::string::npos);
    }

    void howOftenIsAsked() {
        Bench b;
        LineSeat s(b.host, "x");
        for (int i = 0; i < AccessSeat::mostAsked; ++i)
            QCOMPARE(said(s, "get wall", 10), "is wall closed");
        QVERIFY(said(s, "get wall", 10.9).rfind("error asks more than 400", 0) == 0);
        QCOMPARE(said(s, "get wall", 11), "is wall closed");
        // A list of many is as much as many questions.
        auto p = hall();
        auto a = access();
        for (int i = 0; i < 1900; ++i)
            a.allowed.push_back({"v" + std::to_string(i), "box/music.gain", false});
        b.host.serve(p, a);
        int lists = 0;
        while (lists < 100 && said(s, "list", 20).find("error") == std::string::npos)
            ++lists;
        QVERIFY(lists >= 3 && lists <= 5);
    }

    void overHttp() {
        Bench b;
        const auto ask = [&](const char* method, const char* name, const char* body = "", const char* who = "") {
            const auto a = answerJson(b.host, method, name, body, who, "192.0.2.7");
            return std::pair(a.status, json::parse(a.body));
        };
        QCOMPARE(ask("GET", "hall/level").second,
                 json({{"name", "hall/level"}, {"value", -20}, {"text", "\u221220.0 dB"}}));
        QCOMPARE(ask("PUT", "hall/level", "-6").second["value"], -6);
        QCOMPARE(ask("PUT", "hall/level", "{\"value\": \"-7 dB\"}").second["value"], -7);
        QCOMPARE(ask("POST", "hall/level", "{\"step\": 2}").second["value"], -5);
        QCOMPARE(ask("GET", "wall").second["value"], "closed");
        QCOMPARE(ask("POST", "close").second, json({{"done", true}}));
        QCOMPARE(ask("POST", "meeting", "{\"give\": true}").first, 200);
        QCOMPARE(b.device.done.back(), "scene:meeting");
        const auto all = ask("GET", "").second["values"];
        QCOMPARE(all.size(), 6u);
        QCOMPARE(all[0], json({{"name", "hall/level"},
                               {"label", all[0]["label"]},
                               {"sets", true},
                               {"low", -40},
                               {"high", 0},
                               {"value", -5},
                               {"text", "\u22125.0 dB"}}));
        QCOMPARE(all[1]["choices"], json({"closed", "open"}));
        QCOMPARE(all[2]["moment"], true);
        for (const auto& [method, name, body, status] : {std::tuple("GET", "nothing", "", 404),
                                                         {"PUT", "wall", "\"open\"", 403},
                                                         {"PUT", "hall/level", "99", 400},
                                                         {"PUT", "hall/level", "{", 400},
                                                         {"PUT", "hall/level", "[1]", 400},
                                                         {"POST", "hall/level", "", 400},
                                                         {"POST", "hall/level", "{\"leap\": 1}", 400},
                                                         {"POST", "lost", "", 503},
                                                         {"DELETE", "wall", "1", 405},
                                                         {"GET", "hall/mute", "", 401},
                                                         {"GET", "meeting", "", 403}}) {
            const auto [got, why] = ask(method, name, body);
            QVERIFY2(got == status, (std::string(method) + " " + name + " " + body + std::to_string(got)).c_str());
            QVERIFY(why.contains("error") && !why["error"].get<std::string>().empty());
        }
        // "technician:2468" and "technician:1", as `base64` writes them.
        QCOMPARE(ask("GET", "hall/mute", "", "Basic dGVjaG5pY2lhbjoyNDY4").second["value"], false);
        QCOMPARE(ask("POST", "hall/mute", "{\"toggle\": true}", "Basic dGVjaG5pY2lhbjoyNDY4").second["value"], true);
        QCOMPARE(ask("PUT", "hall/mute", "false", "Basic dGVjaG5pY2lhbjoyNDY4").second["value"], false);
        QCOMPARE(ask("GET", "hall/mute", "", "Basic dGVjaG5pY2lhbjox").first, 401);
        QCOMPARE(ask("GET", "wall", "", "Basic dGVjaG5pY2lhbjox").first, 401);
        for (const auto* odd : {"Basic", "Basic !", "Basic dGVj", "Bearer dGVjaG5pY2lhbjoyNDY4"})
            QCOMPARE(ask("GET", "wall", "", odd).first, 400);
    }

    void overWebSockets() {
        Bench b;
        JsonSeat s(b.host, "192.0.2.7");
        const auto ask = [&](const char* text) { return json::parse(s.received(text, 0)); };
        QCOMPARE(ask("[\"set\", \"hall/level\", -6]")["value"], -6);
        QCOMPARE(ask("[\"pin\", \"technician\", \"2468\"]"), json({{"done", true}}));
        QCOMPARE(ask("[\"set\", \"hall/mute\", true]")["value"], true);
        QCOMPARE(ask("[\"list\"]")["values"].size(), 7u);
        QCOMPARE(ask("[\"watch\", \"wall\"]"), json({{"done", true}}));
        auto told = s.tell(b.values());
        QCOMPARE(told.size(), 1u);
        QCOMPARE(json::parse(told[0]), json({{"name", "wall"}, {"value", "closed"}, {"text", "closed"}}));
        QVERIFY(s.tell(b.values()).empty());
        b.device.values["wall:fold"] = 1;
        QCOMPARE(s.tell(b.values()).size(), 1u);
        for (const auto* odd : {"", "[]", "{}", "[1]", "[\"leap\"]", "[\"get\"]", "[\"get\", {}]", "\"get\""})
            QVERIFY2(ask(odd).contains("error"), odd);
        QVERIFY(ask(("[\"get\", \"" + std::string(1000, 'x') + "\"]").c_str()).contains("error"));
    }

    void overOsc() {
        Bench b;
        OscDoor door(b.host);
        const auto ask = [&](const std::string& text, double now = 0) {
            const auto m = readOscText(text);
            std::vector<std::string> all;
            for (const auto& a : door.received(*oscBytes(*m), "192.0.2.7", now))
                all.push_back(oscText(a));
            return all;
        };
        const std::vector<std::string> nothing;
        QCOMPARE(ask("/hall/level"), std::vector<std::string>{"/hall/level f:-20"});
        QCOMPARE(ask("/hall/level f:-6.1"), nothing);
        QCOMPARE(b.device.values["box/speech.gain"], -6.1);
        QCOMPARE(ask("/hall/level i:-7"), nothing);
        QCOMPARE(b.device.values["box/speech.gain"], -7.0);
        QCOMPARE(ask("/hall/level s:\"-8 dB\""), nothing);
        QCOMPARE(b.device.values["box/speech.gain"], -8.0);
        QCOMPARE(ask("/wall"), std::vector<std::string>{"/wall s:closed"});
        b.device.done.clear();
        QCOMPARE(ask("/close i:1"), nothing);
        QCOMPARE(ask("/close f:0"), nothing); // let go
        QCOMPARE(ask("/meeting"), nothing);
        QCOMPARE(b.device.done, (std::vector<std::string>{"cue:closing", "scene:meeting"}));
        QCOMPARE(door.takeOdd().count, 0);
        QCOMPARE(ask("/hall/mute i:1"), nothing); // it asks for a PIN, which OSC has not
        QCOMPARE(b.device.values["box/cut.muted"], 0.0);
        QCOMPARE(ask("/wall s:open"), nothing);
        QCOMPARE(ask("/hall/level f:99"), nothing);
        const auto odd = door.takeOdd();
        QCOMPARE(odd.count, 3);
        QVERIFY(odd.first.find("/hall/mute") == 0);
        // Patterns, as the specification has them.
        const auto pattern = std::string("/{wall,look}\0\0\0\0,\0\0\0", 20);
        QCOMPARE(door.received(pattern, "x", 0).size(), 2u);
        QVERIFY(!oscMatches("/*/*/*/*/*/*/*/*/x", "/a/a/a/a/a/a/a/a/a"));
        QVERIFY(oscMatches("/hall/*", "/hall/level") && oscMatches("/hall/le?el", "/hall/level") &&
                !oscMatches("/hall/[a-c]*", "/hall/level"));
        door.received("junk", "x", 0);
        QCOMPARE(door.takeOdd().count, 1);
        for (int i = 0; i < 5000; ++i)
            (void)ask("/look", 20);
        QVERIFY(door.takeOdd().count > 2900);
        QCOMPARE(ask("/look", 21).size(), 1u);
    }

    void changesOverOsc() {
        Bench b;
        OscDoor door(b.host);
        const auto names = [&](double now) {
            std::vector<std::string> all;
            for (const auto& m : door.tell(b.values(), now))
                all.push_back(oscText(m));
            return all;
        };
        QCOMPARE(names(1), (std::vector<std::string>{"/hall/level f:-20", "/wall s:closed", "/look f:-20"}));
        QVERIFY(names(2).empty());
        b.device.values["wall:fold"] = 1;
        QCOMPARE(names(3), (std::vector<std::string>{"/wall s:open"}));
        QVERIFY(names(10.9).empty());
        QCOMPARE(names(11).size(), 3u); // packets may be lost
    }

    void asItIsEdited() {
        auto p = hall();
        const auto go = [&](const Result<Edit>& e) {
            QVERIFY2(bool(e), e ? "" : e.error().text().c_str());
            auto now = e->make(p);
            QVERIFY2(bool(now), now ? "" : now.error().text().c_str());
            p = std::move(*now);
        };
        const auto refuses = [&](const Result<Edit>& e) { return !e || !e->make(p); };
        go(allowSignal(p, "box", "box/speech.gain", true));
        QCOMPARE(p.accessOf("box")->allowed[0].name, std::string("speech/level"));
        QVERIFY(refuses(allowSignal(p, "box", "box/speech.gain", true)));
        QVERIFY(refuses(allowSignal(p, "box", "start", true)));
        QVERIFY(refuses(allowSignal(p, "nobody", "box/speech.gain", true)));
        QVERIFY(refuses(allowSignal(p, "box", "box/none.gain", true)));
        go(allowSignal(p, "box", "wall:fold", true));
        QVERIFY(!p.accessOf("box")->allowed[1].sets); // nobody can
        go(setAllowedField("box", "speech/level", "name", "level"));
        for (const auto* odd : {"Level", "a//b", "/a", "a/", "", "a b", "oak-elm-wall"})
            QVERIFY2(refuses(setAllowedField("box", "level", "name", odd)), odd);
        go(setAllowedField("box", "level", "low", "-30 dB"));
        go(setAllowedField("box", "level", "high", "-3"));
        QVERIFY(refuses(setAllowedField("box", "level", "low", "-3")));
        QCOMPARE(*p.accessOf("box")->find("level")->low, -30.0);
        go(setAllowedField("box", "level", "low", ""));
        QVERIFY(!p.accessOf("box")->find("level")->low);
        go(setAllowedField("box", "level", "role", "technician"));
        QCOMPARE(accessRoles(*p.accessOf("box")), std::set<std::string>{"technician"});
        QVERIFY(accessErrors(p, *p.accessOf("box")).empty());
        go(setAccessField("box", "osc", "yes"));
        QCOMPARE(accessErrors(p, *p.accessOf("box")).size(), 1u); // it knows no PIN
        go(setAccessField("box", "oscTo", "192.0.2.9:9000; 192.0.2.10:9001"));
        QCOMPARE(p.accessOf("box")->oscTo.size(), 2u);
        QVERIFY(refuses(setAccessField("box", "oscTo", "192.0.2.9")));
        QVERIFY(refuses(setAccessField("box", "nothing", "1")));
        go(setAccessField("box", "lines", "yes"));
        QVERIFY(accessErrors(p, *p.accessOf("box")).empty());
        go(setAccessField("box", "linesPort", "4780"));
        QCOMPARE(accessErrors(p, *p.accessOf("box"))[0].place, "linesPort");
        go(setAccessField("box", "linesPort", "4783"));
        p.accessOf("box")->allowed[1].name = "No Name"; // as others wrote it
        QCOMPARE(accessErrors(p, *p.accessOf("box"))[0].place, "No Name");
        p.accessOf("box")->allowed[1].name = "oak-elm-wall";
        QCOMPARE(allowedFields(p, "box", "level").size(), 5u);
        QCOMPARE(allowedFields(p, "box", "oak-elm-wall").size(), 2u); // name and role

        // It goes to the device with its rules, and comes back.
        const auto text = packRules(p, "box");
        const auto packed = unpackRules(text, test::models());
        QVERIFY(bool(packed));
        QCOMPARE(*packed->project.accessOf("box"), *p.accessOf("box"));
        QVERIFY(signalOf(packed->project, "box/speech.gain") && signalOf(packed->project, "wall:fold"));
        QVERIFY(rulePackWords(text).find("open to others") != std::string::npos);
        auto other = hall();
        QVERIFY(bool(adoptRules(other, text)));
        QCOMPARE(*other.accessOf("box"), *p.accessOf("box"));
        const auto again = projectFromJson(toJson(p), test::models());
        QVERIFY(again && again->access == p.access);

        go(forbidSignal(p, "box", "level"));
        go(forbidSignal(p, "box", "oak-elm-wall"));
        for (const auto* field : {"osc", "lines"})
            go(setAccessField("box", field, "no"));
        go(setAccessField("box", "oscTo", ""));
        QVERIFY(p.access.empty()); // nothing is left
        QVERIFY(refuses(forbidSignal(p, "box", "level")));
    }
};

LOOM_TEST(tst_access, TestAccess)
#include "tst_access.moc"
