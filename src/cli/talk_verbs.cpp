// Verbs of conversations: who talks and listens where, and what the far end gets.
#include "cli/talk_verbs.h"
#include "cli/open.h"
#include "cli/shelf.h"
#include "cli/verb.h"
#include "dsp/audio_file.h"
#include "dsp/number.h"
#include "site/event_log.h"
#include "talk/belongings.h"
#include "talk/first_pass.h"
#include "talk/group.h"
#include "talk/mixes.h"
#include "talk/mute_board.h"
#include "talk/prove.h"

namespace loom::cli {
namespace talk_verbs { // of this file

using namespace project;
using nlohmann::json;

struct Call {
    std::string file, room, state, what, record;
    std::string place, does, talker, listener, to;
    std::vector<std::string> except, only, microphones, ports;
    std::optional<double> db{};
    bool asJson = false, keep = false, go = false, cut = false, bring = false, close = false;
};

Result<Project> load(const Call& c) {
    return loadProject(c.file, shelf());
}

// The project with the space that was said, for what a verb does there.
int inSpace(const Call& c, const std::function<int(Project, const SpaceOf&)>& what) {
    auto p = load(c);
    if (!p)
        return fail(p.error());
    const auto space = spaceSaid(*p, c.room, c.state);
    return space ? what(*p, *space) : fail(space.error());
}

std::string lineOf(const Conversation::Microphone& m, const Conversation& c) {
    std::string text = m.name + (m.role.empty() ? "" : " (" + roleName(m.role) + ")") + ": " + m.input.text();
    if (m.source.empty())
        return text + ", no program takes it";
    if (m.group >= 0)
        text += ", " + c.groups[static_cast<std::size_t>(m.group)].name + " lane " + std::to_string(m.lane + 1);
    return text + (m.echo.empty() ? "" : ", echo taken away by " + m.echo);
}

json asJson(const Conversation& c) {
    json j{{"space", c.space}, {"name", c.name}, {"state", c.state}};
    j["microphones"] = json::array();
    for (const auto& m : c.microphones)
        j["microphones"].push_back({{"device", m.device},
                                    {"role", m.role},
                                    {"input", m.input.text()},
                                    {"source", m.source},
                                    {"group", m.group < 0 ? "" : c.groups[static_cast<std::size_t>(m.group)].block},
                                    {"lane", m.lane + 1},
                                    {"echo", m.echo}});
    j["groups"] = json::array();
    for (const auto& g : c.groups)
        j["groups"].push_back(
            {{"device", g.device}, {"block", g.block}, {"lanes", g.lanes.size()}, {"heard", g.heard}});
    j["farEnds"] = json::array();
    for (const auto& f : c.farEnds)
        j["farEnds"].push_back({{"device", f.device},
                                {"port", f.port},
                                {"name", f.name},
                                {"by", specOf(f.by).id},
                                {"source", f.source},
                                {"destination", f.destination},
                                {"mutes", f.mutes}});
    j["listeners"] = json::array();
    for (const auto& l : c.listeners)
        j["listeners"].push_back(
            {{"kind", nameOf(l.kind)}, {"device", l.device}, {"block", l.block}, {"port", l.port}});
    j["mute"] = json::array();
    for (const auto& m : c.mutePlaces)
        j["mute"].push_back({{"device", m.device}, {"port", m.port}, {"sets", m.sets}, {"shows", m.shows}});
    return j;
}

int conversations(const Call& c) {
    const auto p = load(c);
    if (!p)
        return fail(p.error());
    std::vector<SpaceOf> spaces;
    if (c.room.empty())
        spaces = spacesToTalkIn(*p);
    else if (auto one = spaceSaid(*p, c.room, c.state); one)
        spaces.push_back(std::move(*one));
    else
        return fail(one.error());
    json all = json::array();
    for (const auto& s : spaces) {
        const auto talk = conversationOf(*p, s);
        if (talk.empty() && c.room.empty())
            continue;
        all.push_back(asJson(talk));
        if (c.asJson)
            continue;
        std::printf("%s%s\n", talk.name.c_str(), s.state ? (", " + s.state->name).c_str() : "");
        for (const auto& m : talk.microphones)
            std::printf("  microphone  %s\n", lineOf(m, talk).c_str());
        for (const auto& f : talk.farEnds)
            std::printf("  far end     %s: %s/%s%s%s\n", f.name.c_str(), f.device.c_str(), f.port.c_str(),
                        f.source.empty() ? ", is not heard" : "", f.destination.empty() ? ", hears nothing" : "");
        for (const auto& l : talk.listeners)
            if (l.kind != Conversation::Listener::Kind::farEnd)
                std::printf("  %-11s %s: %s/%s\n", nameOf(l.kind), l.name.c_str(), l.device.c_str(), l.port.c_str());
        for (const auto& m : talk.mutePlaces)
            std::printf("  mute        %s%s\n", m.name.c_str(),
                        m.sets    ? " sets and shows it"
                        : m.shows ? " shows it"
                                  : " takes no part");
    }
    return c.asJson ? say(all) : 0;
}

int prove(const Call& c) {
    return inSpace(c, [&](Project p, const SpaceOf& space) {
        const auto speech = readSpeech(speechFolder());
        if (!speech)
            return fail(speech.error());
        const auto proof = proveTalk(p, space, *speech);
        if (!proof)
            return fail(proof.error());
        if (!c.record.empty()) {
            std::string error;
            dsp::AudioClip clip;
            clip.rate = 48000;
            clip.channels = {proof->sent};
            if (!dsp::writeWav(c.record, clip, error))
                return fail({error, c.record, "Choose another file."});
        }
        const auto missed = proof->missed();
        json j{{"space", proof->space},
               {"state", proof->state},
               {"farEnd", proof->farEnd},
               {"seconds", proof->seconds},
               {"design", designSum(p)}};
        for (const auto& f : talkFigures())
            if (const auto it = proof->figures.find(f.id); it != proof->figures.end()) {
                const auto where = proof->where.find(f.id);
                j["figures"][f.id] = {{"value", it->second},
                                      {"target", f.target},
                                      {"met", meets(f, it->second)},
                                      {"where", where == proof->where.end() ? "" : where->second}};
                if (!c.asJson)
                    std::printf("%s  %-36s %8.*f %-5s %s %.*f%s%s\n", meets(f, it->second) ? "  " : "no", f.label,
                                f.digits, it->second, f.unit, f.most ? "at most" : "at least", f.digits, f.target,
                                where == proof->where.end() ? "" : "  ",
                                where == proof->where.end() ? "" : where->second.c_str());
            }
        j["talkers"] = json::array();
        for (const auto& t : proof->talkers) {
            j["talkers"].push_back({{"name", t.name},
                                    {"microphone", t.microphone},
                                    {"level", t.levelDb},
                                    {"sti", t.sti},
                                    {"roomSti", t.roomSti},
                                    {"lateMs", t.lateMs},
                                    {"cutMs", t.cutMs}});
            if (!c.asJson)
                std::printf("      %-28s %6.1f dBFS  STI %.2f (room %.2f)  %3.0f ms late  %4.0f ms cut\n",
                            t.name.c_str(), t.levelDb, t.sti, t.roomSti, t.lateMs, t.cutMs);
        }
        if (c.asJson)
            (void)say(j);
        if (c.keep) {
            erase_if(p.proofs, [&](const Proof& one) {
                return one.kind == "talk" && one.space == proof->space && one.state == proof->state;
            });
            p.proofs.push_back(proof->kept(site::utcNow(), designSum(p)));
            if (auto saved = saveProject(p, c.file); !saved)
                return fail(saved.error());
        }
        return missed.empty() ? 0 : 1;
    });
}

int group(const Call& c) {
    return inSpace(c, [&](Project p, const SpaceOf& space) {
        const auto edit = groupMicrophones(p, space, c.microphones);
        if (!edit)
            return fail(edit.error());
        c.asJson ? void(say({{"done", edit->text}})) : void(std::printf("%s\n", edit->text.c_str()));
        return saveEdit(p, *edit, c.file);
    });
}

// Of all spaces: where calls come in, and what is missing for one.
int farEnds(const Call& c) {
    const auto p = load(c);
    if (!p)
        return fail(p.error());
    json all = json::array();
    for (const auto& s : spacesToTalkIn(*p)) {
        const auto talk = conversationOf(*p, s);
        for (const auto& f : talk.farEnds) {
            all.push_back({{"space", talk.space},
                           {"device", f.device},
                           {"port", f.port},
                           {"by", specOf(f.by).id},
                           {"name", f.name},
                           {"heard", !f.source.empty()},
                           {"hears", !f.destination.empty()},
                           {"muted", f.mutes}});
            if (!c.asJson)
                std::printf("%-28s %-14s %s/%s%s%s%s\n", talk.name.c_str(), f.name.c_str(), f.device.c_str(),
                            f.port.c_str(), f.source.empty() ? ", is not heard" : "",
                            f.destination.empty() ? ", hears nothing" : "",
                            f.mutes.empty() ? ", nothing mutes it" : "");
        }
    }
    return c.asJson ? say(all) : 0;
}

// Of all spaces, one after another.
int firstPassEverywhere(const Call& c) {
    auto p = load(c);
    if (!p)
        return fail(p.error());
    const auto all = firstPassOfAll(*p, [&](std::size_t done, std::size_t of) {
        if (!c.asJson && of > 10)
            std::fprintf(stderr, "\r%zu of %zu rooms", done + 1, of);
    });
    if (!all)
        return fail(all.error());
    if (c.asJson)
        (void)say(
            {{"spaces", all->spaces}, {"proposals", all->proposals}, {"byHand", all->byHand}, {"cannot", all->cannot}});
    else
        std::printf("%zu proposals in %zu rooms%s\n", all->proposals, all->spaces, c.go ? ", done" : "");
    return c.go && all->proposals > 0 ? saveEdit(*p, editBetween(*p, all->after, "First pass of all rooms"), c.file)
                                      : 0;
}

int firstPass(const Call& c) {
    if (c.room.empty())
        return firstPassEverywhere(c);
    return inSpace(c, [&](Project p, const SpaceOf& space) {
        const auto pass = firstPassOf(p, space);
        json j{{"space", pass.space}, {"state", pass.state}, {"cannot", pass.cannot}};
        j["proposals"] = json::array();
        std::vector<std::string> taken;
        for (const auto& id : c.only)
            if (std::none_of(pass.proposals.begin(), pass.proposals.end(),
                             [&](const auto& one) { return one.id == id; }))
                return fail({"is no proposal", id, "loomctl first-pass without --do lists them."});
        for (const auto& one : pass.proposals) {
            const auto in = [&](const auto& ids) { return std::find(ids.begin(), ids.end(), one.id) != ids.end(); };
            const bool take = c.only.empty() ? !one.byHand && !in(c.except) : in(c.only);
            if (take)
                taken.push_back(one.id);
            j["proposals"].push_back({{"id", one.id},
                                      {"text", one.text},
                                      {"reason", one.reason},
                                      {"extent", one.extent},
                                      {"byHand", one.byHand},
                                      {"ticked", take}});
            if (!c.asJson)
                std::printf("%s %s: %s. (%s%s)\n    %s\n", take ? "[x]" : "[ ]", one.text.c_str(), one.reason.c_str(),
                            one.extent.c_str(), one.byHand ? ", set by hand" : "", one.id.c_str());
        }
        for (const auto& why : pass.cannot)
            if (!c.asJson)
                std::printf("    %s\n", why.c_str());
        if (c.asJson)
            (void)say(j);
        if (!c.go || taken.empty())
            return 0;
        return saveEdit(p, takeFirstPass(pass, taken), c.file);
    });
}

// Does an edit and says so.
int doEdit(const Call& c, Project p, const Result<Edit>& edit) {
    if (!edit)
        return fail(edit.error());
    if (!c.asJson)
        std::printf("%s\n", edit->text.c_str());
    else
        (void)say({{"done", edit->text}});
    return saveEdit(p, *edit, c.file);
}

const char* wordOf(Mixes::Cell::State state) {
    constexpr const char* words[] = {"closed", "open", "own", "thread", "apart"};
    return words[static_cast<std::size_t>(state)];
}

int mixes(const Call& c) {
    return inSpace(c, [&](Project p, const SpaceOf& space) {
        const auto m = mixesOf(p, space);
        if (!c.talker.empty() || !c.listener.empty()) {
            const auto t = talkerSaid(m, c.talker), l = listenerSaid(m, c.listener);
            if (!t || !l)
                return fail(t ? l.error() : t.error());
            return doEdit(c, p,
                          c.bring ? bringTo(p, m, *t, *l)
                                  : setCrossing(p, m, *t, *l, c.close ? std::optional<double>(-80) : c.db));
        }
        json all = json::array();
        for (std::size_t t = 0; t < m.talkers.size(); ++t) {
            if (!c.asJson)
                std::printf("%s\n", m.talkers[t].name.c_str());
            for (std::size_t l = 0; l < m.listeners.size(); ++l) {
                const auto& cell = m.at(t, l);
                all.push_back(
                    {{"talker", m.talkers[t].name},
                     {"listener", m.listeners[l].name},
                     {"state", wordOf(cell.state)},
                     {"crossing", cell.block.empty() ? "" : cell.device + "/" + cell.block + "." + cell.param},
                     {"why", cell.why}});
                if (cell.audible())
                    all.back()["db"] = cell.db;
                if (!c.asJson)
                    std::printf("  %-28s %s%s\n", m.listeners[l].name.c_str(),
                                cell.state == Mixes::Cell::State::own     ? "left out: its own"
                                : cell.state == Mixes::Cell::State::apart ? cell.why.c_str()
                                : cell.audible()                          ? (fixedText(cell.db, 1) + " dB").c_str()
                                                                          : "closed",
                                cell.state == Mixes::Cell::State::thread ? ", by threads" : "");
            }
        }
        return c.asJson ? say(all) : 0;
    });
}

int mutes(const Call& c) {
    return inSpace(c, [&](Project p, const SpaceOf& space) {
        if (c.cut)
            return doEdit(c, p, cutFarEnds(p, space));
        if (!c.place.empty()) {
            const auto slash = c.place.find('/');
            const auto device = c.place.substr(0, slash);
            return doEdit(c, p,
                          setMutePlace(p, space, device,
                                       slash == std::string::npos ? "self" : c.place.substr(slash + 1), c.does));
        }
        const auto board = muteBoardOf(p, space);
        json places = json::array(), cuts = json::array();
        for (const auto& one : board.places) {
            places.push_back({{"device", one.device},
                              {"place", one.key},
                              {"name", one.name},
                              {"kind", one.kind},
                              {"does", one.does},
                              {"cuts", one.cuts},
                              {"hears", nameOf(one.line)}});
            if (!c.asJson)
                std::printf("%-26s %-13s %-6s %s%s\n", one.name.c_str(), one.kind.c_str(), one.does.c_str(),
                            nameOf(one.line), one.cuts ? ", cuts the sound itself" : "");
        }
        for (const auto& one : board.cuts) {
            cuts.push_back({{"device", one.device}, {"farEnd", one.farEnd}, {"blocks", one.blocks}});
            if (!c.asJson)
                std::printf("%s: %s\n", one.farEnd.c_str(),
                            one.blocks.empty() ? "nothing cuts it" : "cut in the processor");
        }
        const auto without = board.withoutNetwork();
        if (!c.asJson)
            std::printf("Without the network: %s\n", without.empty() ? "nothing sets it" : without.c_str());
        return c.asJson ? say({{"places", places}, {"cuts", cuts}, {"withoutNetwork", without}}) : 0;
    });
}

int whose(const Call& c) {
    const auto p = load(c);
    if (!p)
        return fail(p.error());
    if (!c.ports.empty()) {
        std::vector<std::pair<std::string, std::string>> ports;
        for (const auto& one : c.ports) {
            const auto slash = one.find('/');
            ports.emplace_back(one.substr(0, slash), slash == std::string::npos ? "" : one.substr(slash + 1));
        }
        if (!c.does.empty() || c.cut)
            return ports.size() == 1 ? doEdit(c, *p, setLatch(*p, ports[0].first, ports[0].second, c.does))
                                     : fail({"a latch hangs on one contact", "", "Give one with --give."});
        return doEdit(c, *p, giveTo(*p, ports, c.to));
    }
    json all = json::array();
    for (const auto& b : belongingsOf(*p)) {
        all.push_back({{"device", b.device},
                       {"port", b.port},
                       {"kind", nameOf(b.kind)},
                       {"name", b.name},
                       {"owner", b.owner},
                       {"used", b.used}});
        if (!c.asJson && (b.used || !b.owner.empty()))
            std::printf("%-14s %s%s%s  %s\n", b.owner.empty() ? "nobody" : b.owner.c_str(), b.device.c_str(),
                        b.port.empty() ? "" : "/", b.port.c_str(), b.name.c_str());
    }
    return c.asJson ? say(all) : 0;
}

} // namespace talk_verbs

void addTalkVerbs(CLI::App& app, std::function<int()>& action) {
    using namespace talk_verbs;
    static Call call; // lives as long as the program
    const auto verb = [&](const char* name, const char* does, const char* example, int (*go)(const Call&)) {
        auto* v = addVerb(app, action, call, name, does, example, go);
        v->add_flag("--json", call.asJson, "Answer as JSON");
        v->add_option("FILE", call.file, "Project file or folder")->required();
        v->add_option("--state", call.state, "A wall state, by id or name; else walls are closed");
        return v;
    };
    auto* v = verb("conversations", "Who talks and who listens in each space",
                   "loomctl conversations hall.loom council", conversations);
    v->add_option("ROOM", call.room, "A room, or rooms joined by \"+\"; else all");
    v = verb("far-ends", "Where calls come in, and what is missing for one", "loomctl far-ends hall.loom", farEnds);
    v = verb("group", "A microphone group of chosen microphones of a space",
             "loomctl group hall.loom council chair-microphone delegate-1-microphone", group);
    v->add_option("ROOM", call.room, "A room, or rooms joined by \"+\"")->required();
    v->add_option("MICROPHONE", call.microphones, "Ids of their devices")->required();
    v = verb("mixes", "Who hears whom in a space, and how loud", "loomctl mixes hall.loom council", mixes);
    v->add_option("ROOM", call.room, "A room, or rooms joined by \"+\"")->required();
    v->add_option("--talker", call.talker, "By name: sets a crossing, of this talker ...");
    v->add_option("--listener", call.listener, "... to this listener; without a level it is opened or closed");
    v->add_option("--db", call.db, "Its level");
    v->add_flag("--close", call.close, "Closes it");
    v->add_flag("--bring", call.bring, "Brings a talker that is apart, by a stream if need be");
    v = verb("mutes", "The mute of a space: who sets it, who shows it, where sound is cut",
             "loomctl mutes hall.loom council", mutes);
    v->add_option("ROOM", call.room, "A room, or rooms joined by \"+\"")->required();
    v->add_option("--place", call.place, "A device, or DEVICE/PORT, DEVICE/contact 1, DEVICE/relay 1 ...");
    v->add_option("--does", call.does, "... and what it does from now on: sets, shows or off");
    v->add_flag("--cut", call.cut, "Puts a mute on the way to each far end that has none");
    v = verb("whose", "Whose ports, lines, arrays and contacts of processors are", "loomctl whose hall.loom", whose);
    v->add_option("--give", call.ports, "DEVICE/PORT, to give them ...");
    v->add_option("--latch", call.does, "... or the movable wall whose latch hangs on that contact");
    v->add_flag("--free", call.cut, "... or nothing hangs on it any more");
    v->add_option("--to", call.to, "... to a room, to rooms joined by \"+\"; without it to nobody");
    v = verb("first-pass", "What a space needs for a conversation, with reasons; does nothing without --do",
             "loomctl first-pass hall.loom council --do", firstPass);
    v->add_option("ROOM", call.room, "A room, or rooms joined by \"+\"; else all, one after another");
    v->add_flag("--do", call.go, "Does those that are ticked, as one step");
    v->add_option("--except", call.except, "Ids of proposals that are not ticked");
    v->add_option("--only", call.only, "Ids of the only ones that are");
    v = verb("prove", "Runs a space with speech through its simulated room; exits 1 where a target is missed",
             "loomctl prove hall.loom council talk", prove);
    v->add_option("ROOM", call.room, "A room, or rooms joined by \"+\"")->required();
    v->add_option("WHAT", call.what, "What is shown: talk")->required()->check(CLI::IsMember({"talk"}));
    v->add_option("--record", call.record, "A WAV file for what the far end is sent");
    v->add_flag("--keep", call.keep, "Keeps the result in the project");
}

} // namespace loom::cli
