// Verbs of conversations: who talks and listens where, and what the far end gets.
#include "cli/talk_verbs.h"
#include "cli/open.h"
#include "cli/shelf.h"
#include "cli/verb.h"
#include "dsp/audio_file.h"
#include "site/event_log.h"
#include "talk/first_pass.h"
#include "talk/group.h"
#include "talk/prove.h"

namespace loom::cli {
namespace talk_verbs { // of this file

using namespace project;
using nlohmann::json;

struct Call {
    std::string file, room, state, what, record;
    std::vector<std::string> except, only, microphones;
    bool asJson = false, keep = false, go = false;
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

int firstPass(const Call& c) {
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
    v = verb("first-pass", "What a space needs for a conversation, with reasons; does nothing without --do",
             "loomctl first-pass hall.loom council --do", firstPass);
    v->add_option("ROOM", call.room, "A room, or rooms joined by \"+\"")->required();
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
