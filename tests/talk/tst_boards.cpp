// Mixes, mutes, belongings and walls of the demo's rooms, and what is changed there.
#ifndef Q_MOC_RUN
#include "engine/path_response.h"
#include "findings/findings.h"
#include "model/contact.h"
#include "model/history.h"
#include "model/set_up.h"
#include "program/program_edit.h"
#include "program/wall_switch.h"
#include "rooms/room_edit.h"
#include "talk/belongings.h"
#include "talk/first_pass.h"
#include "talk/mixes.h"
#include "talk/mute_board.h"
#include "talk/talk_fields.h"
#endif
#include "models.h"
#include "test.h"
#include <cmath>

using namespace loom;
using namespace loom::project;
using State = Mixes::Cell::State;

class TestBoards : public QObject {
    Q_OBJECT
    Project demo_;
    static SpaceOf space(const Project& p, const char* key, const char* state = "") {
        const auto s = spaceSaid(p, key, state);
        if (!s)
            qFatal("no space %s", key);
        return *s;
    }
    static Project after(const Project& p, const Result<Edit>& edit) {
        if (!edit)
            qFatal("%s", edit.error().text().c_str());
        auto then = edit->make(p);
        if (!then)
            qFatal("%s", then.error().text().c_str());
        return *then;
    }
    static double gain(const Project& p, const char* device, const char* from, const char* to,
                       std::set<std::string> open = {}) {
        const auto h =
            engine::pathResponse(atWalls(*p.device(device)->program, open), {from, 0}, {to, 0}, {1000}, 48000);
        return h ? 20 * std::log10(std::abs(h->front()) + 1e-9) : -999;
    }
    static bool says(const Result<Edit>& edit, const char* text) {
        return !edit && edit.error().text().find(text) != std::string::npos;
    }
    static bool finds(const Project& p, FindingCode code) {
        const auto all = checkWith(p, {});
        return std::any_of(all.begin(), all.end(), [&](const auto& f) { return f.code == code; });
    }

  private slots:
    void initTestCase() { demo_ = *test::load(LOOM_SOURCE_DIR "/demo/marram-point"); }
    void whoHearsWhom() {
        const auto m = mixesOf(demo_, space(demo_, "council"));
        const auto t = [&](const char* name) { return *talkerSaid(m, name); };
        const auto l = [&](const char* name) { return *listenerSaid(m, name); };
        QCOMPARE(m.cells.size(), m.talkers.size() * m.listeners.size());
        QCOMPARE(m.talkers[t("Chair")].role, std::string("chair"));
        QVERIFY(m.talkers[t("Telephone")].kind == Mixes::Talker::Kind::farEnd);
        QVERIFY(m.talkers[t("Programme L")].kind == Mixes::Talker::Kind::other);
        QVERIFY(m.at(t("Chair"), l("Hearing loop")).state == State::open &&
                m.at(t("Chair"), l("Hearing loop")).db == 0);
        QVERIFY(m.at(t("Programme L"), l("Column R")).state == State::closed);
        QVERIFY(m.at(t("Far end"), l("Far-end send")).state == State::own &&
                !m.at(t("Far end"), l("Far-end send")).audible());
        QVERIFY(m.at(t("Telephone"), l("Far-end send")).state == State::open);
        QVERIFY(!talkerSaid(m, "Nobody") && !listenerSaid(m, ""));
        // Opened as loud as others of its kind, closed, set; the sound follows.
        auto p = after(demo_, setCrossing(demo_, m, t("Chair"), l("Hearing loop")));
        QVERIFY(gain(p, "heddle", "chair", "loop") < -30);
        p = after(p, setCrossing(p, mixesOf(p, space(p, "council")), t("Chair"), l("Hearing loop")));
        QVERIFY(mixesOf(p, space(p, "council")).at(t("Chair"), l("Hearing loop")).db == 0);
        p = after(p, setCrossing(p, m, t("Delegate 3"), l("Recorder"), -7.5));
        QCOMPARE(mixesOf(p, space(p, "council")).at(t("Delegate 3"), l("Recorder")).db, -7.5);
        QVERIFY(std::abs(gain(p, "heddle", "delegate-3", "recorder") - gain(demo_, "heddle", "delegate-3", "recorder") +
                         7.5) < 0.01);
        QVERIFY(says(setCrossing(demo_, m, t("Far end"), l("Far-end send")), "hear itself"));
        QVERIFY(says(setCrossing(demo_, m, t("Far end"), l("Far-end send"), -3), "hear itself"));
        QVERIFY(says(setCrossing(demo_, m, t("Chair"), l("Recorder"), 13), "range"));
        QVERIFY(says(bringTo(demo_, m, t("Chair"), l("Recorder")), "already"));
    }
    // One who is led to another processor is brought by a stream, in one step.
    void whoIsApartIsBrought() {
        auto p = demo_;
        p.device("heddle")->feeds.erase("in 9");
        p.device("heddle-8-rack-a")->feeds["in 7"] = "delegate-8-microphone/out 1";
        auto& other = *p.device("heddle-8-rack-a")->program;
        other = addBlock(other, "source", "Delegate 8 there", {{"port", "in 7"}})->program;
        const auto m = mixesOf(p, space(p, "council"));
        const auto t = talkerSaid(m, "Delegate 8 there"), l = listenerSaid(m, "Far-end send");
        QVERIFY(t && l);
        const auto& cell = m.at(*t, *l);
        QVERIFY(cell.state == State::apart && cell.why.find("no stream") != std::string::npos);
        QVERIFY(says(setCrossing(p, m, *t, *l), "do not meet"));
        const auto then = after(p, bringTo(p, m, *t, *l));
        const auto now = mixesOf(then, space(then, "council"));
        const auto& brought = now.at(*talkerSaid(now, "Delegate 8 there"), *l);
        QVERIFY(brought.state == State::open && !brought.over.empty() && brought.device == "heddle");
        const auto closed = after(then, setCrossing(then, now, *talkerSaid(now, "Delegate 8 there"), *l));
        QVERIFY(!mixesOf(closed, space(closed, "council")).at(*talkerSaid(now, "Delegate 8 there"), *l).audible());
        QVERIFY(!finds(then, FindingCode::streamGone) && !finds(then, FindingCode::loop));
    }
    void openWallsHaveMixesOfTheirOwn() {
        const char* const d = "heddle-8-rack-a";
        // Apart, neither room hears the other; joined, both do.
        QVERIFY(gain(demo_, d, "plover-lectern", "far-send") < -100 && gain(demo_, d, "plover-lectern", "tern") < -100);
        QVERIFY(gain(demo_, d, "plover-lectern", "far-send", {"fold"}) > 0 &&
                gain(demo_, d, "plover-lectern", "tern", {"fold"}) > -30);
        QVERIFY(gain(demo_, d, "tern-lectern", "tern") > -30 && gain(demo_, d, "tern-lectern", "tern", {"fold"}) > -30);
        const auto apart = mixesOf(demo_, space(demo_, "tern")), joined = mixesOf(demo_, space(demo_, "tern+plover"));
        QVERIFY(apart.listeners.size() == 2 && joined.listeners.size() == 4);
        QVERIFY(apart.at(0, 0).block != joined.at(0, 0).block);
        const auto c = conversationOf(demo_, space(demo_, "tern+plover"));
        QVERIFY(c.groups.size() == 1 && c.groups[0].lanes.size() == 6 && c.walls() == "fold");
        for (const auto& m : c.microphones)
            QVERIFY2(m.group == 0 && !m.echo.empty(), m.name.c_str());
        // The canceller's reference is what is played in both rooms while they are one.
        const auto& program = *demo_.device(d)->program;
        const auto& echo = *program.find(c.microphones[0].echo);
        const auto& reference = program.into({echo.id, engine::BlockView(echo).inputs() - 1})->from;
        const auto heard = [&](const char* source, std::set<std::string> open) {
            const auto h = engine::pathResponse(atWalls(program, open), {source, 0}, reference, {1000}, 48000);
            return h && std::abs(h->front()) > 1e-3;
        };
        QVERIFY(heard("laptop", {}) && !heard("far-end-2", {}) && heard("laptop", {"fold"}) &&
                heard("far-end-2", {"fold"}));
        for (const char* said : {"council", "tern", "plover"})
            QVERIFY2(firstPassOf(demo_, space(demo_, said)).proposals.empty(), said);
        QVERIFY(firstPassOf(demo_, space(demo_, "tern+plover")).proposals.empty());
    }
    void switchesKnowTheirStates() {
        engine::Block b{"s", "selector", "", {{"inputs", 6}, {"outputs", 2}}, {}, {}, {{wallSwitchMark, "-;a;a+b"}},
                        {}};
        using Values = std::map<std::string, double>;
        QVERIFY((wallValues(b, {}) == Values{{"1", 1}, {"2", 2}}));
        QVERIFY((wallValues(b, {"a"}) == Values{{"1", 3}, {"2", 4}}));
        QVERIFY((wallValues(b, {"a", "b"}) == Values{{"1", 5}, {"2", 6}}));
        QVERIFY((wallValues(b, {"a", "c"}) == Values{{"1", 3}, {"2", 4}})); // the most of what is open
        QVERIFY((wallValues(b, {"b"}) == Values{{"1", 1}, {"2", 2}}));
        b.shape["inputs"] = 3; // a state that has no inputs moves what it can
        QVERIFY((wallValues(b, {"a"}) == Values{{"1", 3}}));
        b.marks.clear();
        QVERIFY(wallValues(b, {"a"}).empty() && statesOf(b).empty());
        QCOMPARE(wallsText(readWalls("b+a")), std::string("a+b"));
    }
    void mutesAreSetShownAndCut() {
        const auto at = space(demo_, "council");
        const auto b = muteBoardOf(demo_, at);
        const auto place = [&](const MuteBoard& board, const char* device, const char* key) {
            for (const auto& one : board.places)
                if (one.device == device && one.key == key)
                    return one;
            qFatal("no place");
        };
        QCOMPARE(place(b, "council-tap", "self").does, std::string("sets"));
        QVERIFY(place(b, "council-canopy", "self").cuts && !place(b, "council-canopy", "self").maySet);
        QVERIFY(place(b, "heddle", "tel 1").does == "shows" && !place(b, "heddle", "tel 1").maySet);
        QVERIFY(place(b, "heddle", "cut").cuts && place(b, "heddle", "cut").line == MuteBoard::Line::own);
        QVERIFY(b.any() && b.cuts.size() == 3 && b.withoutNetwork() == "Far end"); // the computer on USB
        for (const auto& cut : b.cuts)
            QVERIFY2(cut.blocks.size() == 1, cut.farEnd.c_str());
        auto p = after(demo_, setMutePlace(demo_, at, "council-slate", "self", "off"));
        QCOMPARE(p.device("council-slate")->mutes.at("self"), std::string("off"));
        QVERIFY(!setUpOf(*p.device("council-slate")).count("mute self"));
        QCOMPARE(setUpOf(*demo_.device("council-slate")).at("mute self"), std::string("council sets"));
        // A wired button and a lamp at the processor need no network.
        p = after(p, setMutePlace(p, at, "heddle", "contact 2", "sets"));
        p = after(p, setMutePlace(p, at, "heddle", "relay 1", "shows"));
        QVERIFY(p.device("heddle")->contacts.at("contact 2") == "mute council" &&
                p.device("heddle")->contacts.at("relay 1") == "lamp council");
        QVERIFY(place(muteBoardOf(p, at), "heddle", "contact 2").line == MuteBoard::Line::wired);
        p = after(p, setMutePlace(p, at, "heddle", "contact 2", "off"));
        QVERIFY(!p.device("heddle")->contacts.count("contact 2"));
        QVERIFY(says(setMutePlace(p, at, "council-canopy", "self", "sets"), "cannot set"));
        QVERIFY(says(setMutePlace(p, at, "heddle", "contact 99", "sets"), "no such contact"));
        QVERIFY(says(setMutePlace(p, at, "heddle", "contact 1", "shows"), "cannot show"));
        QVERIFY(says(setMutePlace(p, at, "heddle", "relay 1", "sets"), "cannot set"));
        QVERIFY(says(setMutePlace(p, at, "heddle", "cut", "off"), "always cuts"));
        QVERIFY(says(setMutePlace(p, at, "tern-tap", "self", "sets"), "no such place"));
        QVERIFY(says(setMutePlace(p, at, "nobody", "self", "sets"), "no such device"));
        QVERIFY(says(setMutePlace(p, at, "council-tap", "self", "perhaps"), "nothing that a place does"));
        QVERIFY(says(cutFarEnds(demo_, at), "cut already"));
        auto& program = *p.device("heddle")->program;
        program = *removeBlock(program, b.cuts[0].blocks[0]);
        QVERIFY(finds(p, FindingCode::nothingCuts));
        QVERIFY(!finds(after(p, cutFarEnds(p, at)), FindingCode::nothingCuts));
    }
    void portsAreGiven() {
        const auto all = belongingsOf(demo_);
        const auto find = [&](const char* device, const char* port) {
            for (const auto& b : all)
                if (b.device == device && b.port == port)
                    return b;
            qFatal("no port %s", port);
        };
        QVERIFY(find("heddle", "usb 2").owner == "council" && find("heddle", "usb 2").used);
        QVERIFY(find("heddle", "in 4").owner == "council" && find("heddle", "in 4").name == "Delegate 3 microphone");
        QVERIFY(find("heddle", "in 16").owner.empty() && !find("heddle", "in 16").used);
        QVERIFY(find("tern-canopy", "").owner == "tern" && !find("tern-canopy", "").mayMove);
        QVERIFY(find("heddle-8-rack-a", "contact 1").owner == "tern+plover" &&
                !find("heddle-8-rack-a", "contact 1").mayMove);
        QVERIFY(otherChannels(demo_).empty());
        auto p = after(demo_, giveTo(demo_, {{"heddle", "in 15"}, {"heddle", "in 16"}}, "foyer"));
        QVERIFY(p.device("heddle")->owners.at("in 15") == "foyer" && p.device("heddle")->owners.at("in 16") == "foyer");
        p = after(p, giveTo(p, {{"heddle", "in 15"}}, ""));
        QVERIFY(!p.device("heddle")->owners.count("in 15"));
        p = after(p, giveTo(p, {{"heddle-8-rack-a", "in 8"}}, "tern+plover"));
        QCOMPARE(p.device("heddle-8-rack-a")->owners.at("in 8"), std::string("tern+plover"));
        QVERIFY(says(giveTo(p, {{"heddle", "in 15"}}, "tern+council"), "never one"));
        QVERIFY(says(giveTo(p, {{"heddle", "in 15"}}, "nowhere"), "no such room"));
        QVERIFY(says(giveTo(p, {{"heddle", "in 99"}}, "foyer"), "no such port"));
        QVERIFY(says(giveTo(p, {{"tern-canopy", ""}}, "foyer"), "hangs in"));
        QVERIFY(says(giveTo(p, {{"heddle-8-rack-a", "contact 1"}}, "tern"), "wall divides"));
        QVERIFY(says(giveTo(p, {}, "foyer"), "no port"));
        p = after(demo_, setMutePlace(demo_, space(demo_, "council"), "heddle", "contact 2", "sets"));
        p = after(p, giveTo(p, {{"heddle", "contact 2"}}, "foyer")); // its button mutes the other room now
        QCOMPARE(p.device("heddle")->contacts.at("contact 2"), std::string("mute foyer"));
    }
    void latchesOfWalls() {
        auto p = demo_;
        p.device("heddle-8-rack-a")->contacts.clear();
        QVERIFY(finds(p, FindingCode::wallUnknown));
        p = after(p, setLatch(p, "heddle-8-rack-a", "contact 3", "fold"));
        QCOMPARE(p.device("heddle-8-rack-a")->contacts.at("contact 3"), std::string("wall fold tern+plover"));
        QVERIFY(!finds(p, FindingCode::wallUnknown));
        p = after(p, setLatch(p, "heddle-8-rack-a", "contact 3", ""));
        QVERIFY(p.device("heddle-8-rack-a")->contacts.empty());
        QVERIFY(says(setLatch(p, "heddle-8-rack-a", "contact 3", "moon"), "no such movable wall"));
        QVERIFY(says(setLatch(p, "heddle-8-rack-a", "contact 33", "fold"), "no such contact"));
        QVERIFY(says(setLatch(p, "heddle-8-rack-a", "in 1", "fold"), "is no contact"));
        QVERIFY(says(setLatch(p, "nobody", "contact 3", "fold"), "no such device"));
    }
    void groupsAndMicrophonesAsFields() {
        const auto c = conversationOf(demo_, space(demo_, "council"));
        const auto all = talkFields(demo_, c, 0, 0);
        const auto find = [&](const char* id) {
            for (const auto& f : all)
                if (f.id == id)
                    return f;
            qFatal("no field %s", id);
        };
        QVERIFY(find("group.limit").value == 3 && find("group.mode").text == "gated" && find("role").text == "chair");
        QCOMPARE(find("lane.priority").text, std::string("on"));
        QVERIFY(talkFields(demo_, c, -1, -1).empty() && talkFields(demo_, c, 7, -1).empty());
        auto p = after(demo_, setTalkField(demo_, c, 0, 0, "group.limit", "2"));
        QCOMPARE(p.device("heddle")->program->find(c.groups[0].block)->values.at("limit"), 2.0);
        p = after(p, setTalkField(p, c, 0, 3, "lane.priority", "on"));
        QCOMPARE(p.device("heddle")
                     ->program->find(c.groups[0].block)
                     ->values.at(std::to_string(c.microphones[3].lane + 1) + ".priority"),
                 1.0);
        p = after(p, setTalkField(p, c, 0, 3, "role", "presenter"));
        QCOMPARE(p.device(c.microphones[3].device)->role, std::string("presenter"));
        QVERIFY(says(setTalkField(p, c, 0, 0, "group.limit", "99"), "") &&
                says(setTalkField(p, c, 0, 0, "role", "king"), ""));
        QVERIFY(says(setTalkField(p, c, 0, -1, "role", "chair"), "no such field"));
    }
    void usesOfContactsAreRead() {
        using Kind = ContactUse::Kind;
        QVERIFY(readContact("contact 1", "wall fold tern+plover")->kind == Kind::wall);
        QVERIFY(readContact("contact 1", "mute council")->space == "council");
        QVERIFY(readContact("relay 2", "lamp council")->kind == Kind::lamp &&
                readContact("relay 2", "")->kind == Kind::none);
        for (const auto& [id, text] : {std::pair("contact 1", "lamp council"),
                                       {"relay 1", "mute council"},
                                       {"contact 1", "wall fold"},
                                       {"contact 1", "mute a b"},
                                       {"out 1", "mute a"},
                                       {"contact 1", "x"}})
            QVERIFY2(!readContact(id, text), text);
        for (const char* text : {"wall fold tern+plover", "mute council"})
            QCOMPARE(contactText(*readContact("contact 1", text)), std::string(text));
        QVERIFY(readMuteUse("council sets")->sets && !readMuteUse("council shows")->sets);
        QVERIFY(!readMuteUse("council") && !readMuteUse("council off") && !readMuteUse("") && !readMuteUse("a b sets"));
        const auto& heddle = test::model("heddle-16");
        for (const auto& [id, text] : {std::pair("contact 9", "mute council"),
                                       {"relay 5", "lamp council"},
                                       {"mute in 1", "council sets"},
                                       {"mute usb 3", "council sets"},
                                       {"mute self", "council sets"},
                                       {"contact 1", "nonsense"},
                                       {"mute usb 1", "council perhaps"}})
            QVERIFY2(!checkSetUp(heddle, {{id, text}}), id);
        QVERIFY(bool(checkSetUp(heddle, {{"contact 8", "mute council"},
                                         {"relay 4", "lamp council"},
                                         {"mute usb 1", "council sets"},
                                         {"mute tel 1", ""}})));
        QVERIFY(!checkSetUp(test::model("canopy-8"), {{"mute self", "council sets"}}) &&
                bool(checkSetUp(test::model("canopy-8"), {{"mute self", "council shows"}})));
        // Into the plan and out of it again.
        Device d = *std::as_const(demo_).device("heddle");
        adoptSetUp(d, {{"mute usb 1", ""}, {"contact 3", "mute council"}, {"mute tel 1", "council shows"}});
        QVERIFY(d.mutes.at("usb 1") == "off" && d.contacts.at("contact 3") == "mute council" &&
                d.mutes.at("tel 1") == "shows");
        const auto now = setUpOf(d);
        QVERIFY(!now.count("mute usb 1") && now.at("contact 3") == "mute council" && now.at("telName") == "council");
        adoptSetUp(d, {{"contact 3", ""}});
        QVERIFY(!d.contacts.count("contact 3"));
    }
};
LOOM_TEST(tst_boards, TestBoards)
#include "tst_boards.moc"
