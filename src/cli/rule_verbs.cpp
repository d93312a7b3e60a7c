// Verbs of rules: what happens when, scenes, scripts, rehearsals.
#include "cli/rule_verbs.h"
#include "cli/open.h"
#include "cli/shelf.h"
#include "cli/verb.h"
#include "disk/safe_file.h"
#include "dsp/number.h"
#include "rules/analysis.h"
#include "rules/rehearsal.h"
#include "rules/rule_edit.h"
#include "rules/rule_home.h"
#include "rules/scene_figures.h"
#include "rules/scenes.h"
#include "rules/sentence.h"
#include <iterator>

namespace loom::cli {
namespace rule_verbs { // of this file

using namespace project;
using nlohmann::json;

constexpr std::size_t mostText = 1u << 20; // bytes that are read

struct Call {
    std::string file, rule, name, room, text, scene, script, day, begins, until, keepAs, words, part = "action";
    std::vector<std::string> lines, params, fields;
    bool asJson = false, remove = false, on = false, off = false, kinds = false, happenings = false, copy = false;
};

Result<Project> load(const Call& c) {
    return loadProject(c.file, shelf());
}

int keep(Project p, const Result<Edit>& edit, const Call& c) {
    return edit ? saveEdit(p, *edit, c.file) : fail(edit.error());
}

// A file's text; "-": what comes in.
Result<std::string> textOf(const std::string& file) {
    if (file != "-")
        return readWhole(file, mostText);
    std::string text{std::istreambuf_iterator<char>(std::cin), {}};
    if (text.size() > mostText)
        return Error{"is longer than 1 MB", "-", "Split it."};
    return text;
}

const char* partText(Part part) {
    return part == Part::trigger ? "when" : part == Part::condition ? "only if" : "then";
}

json jsonOf(const Project& p, const Rule& r) {
    json j = toJson(r);
    const auto home = homeOf(p, r);
    j["home"] = home.device;
    j["others"] = home.others;
    j["text"] = ruleText(p, r);
    return j;
}

int rules(const Call& c) {
    json all = json::array();
    if (c.kinds) {
        for (const auto& k : clauseKinds())
            if (c.asJson)
                all.push_back({{"part", partText(k.part)}, {"kind", k.id}, {"sentence", k.sentence}, {"help", k.help}});
            else
                std::printf("%-8s %s\n", partText(k.part), k.sentence.c_str());
        return c.asJson ? say(all) : 0;
    }
    if (c.file.empty())
        return fail({"no project is named", "FILE", "Name one, or say --kinds."});
    const auto p = load(c);
    if (!p)
        return fail(p.error());
    if (c.happenings) {
        for (const auto& s : c.words.empty() ? happenings(*p) : findSignals(*p, c.words, 500))
            if (c.asJson)
                all.push_back({{"path", s.path}, {"label", s.label}, {"group", s.group}});
            else
                std::printf("%-44s %s, %s\n", s.path.c_str(), s.group.c_str(), s.label.c_str());
        return c.asJson ? say(all) : 0;
    }
    for (const auto& r : p->rules) {
        if (c.asJson) {
            all.push_back(jsonOf(*p, r));
            continue;
        }
        const auto home = homeOf(*p, r);
        std::printf("%s%s (%s)%s\n", all.empty() ? "" : "\n", r.name.c_str(), r.id.c_str(),
                    r.on ? "" : ", switched off");
        const auto text = ruleText(*p, r);
        std::printf("%s", text.substr(text.find('\n') + 1).c_str());
        if (!home.device.empty())
            std::printf("  on %s\n", home.device.c_str());
    }
    return c.asJson ? say(all) : 0;
}

int rule(const Call& c) {
    auto p = load(c);
    if (!p)
        return fail(p.error());
    const auto said = ruleSaid(*p, c.rule);
    if (c.remove || c.copy || c.on || c.off || !c.fields.empty()) {
        if (!said)
            return fail(said.error());
        const auto id = (*said)->id;
        if (c.remove)
            return keep(*p, removeRule(*p, id), c);
        if (c.copy)
            return keep(*p, copyRule(*p, id), c);
        std::vector<Edit> edits;
        if (c.on || c.off)
            edits.push_back(turnRule(id, c.on));
        for (const auto& f : c.fields) {
            const auto equal = f.find('=');
            if (equal == std::string::npos)
                return fail({"is no FIELD=VALUE", f, "As in again=queue."});
            edits.push_back(setRuleField(id, f.substr(0, equal), f.substr(equal + 1)));
        }
        return saveEdit(*p, together(std::move(edits), "Change a rule"), c.file);
    }
    std::string text;
    if (!c.text.empty()) {
        const auto read = textOf(c.text);
        if (!read)
            return fail(read.error());
        text = *read;
    }
    for (const auto& line : c.lines)
        text += (text.empty() ? "" : "\n") + line;
    if (text.empty()) {
        if (!said)
            return fail(said.error());
        if (c.asJson)
            return say(jsonOf(*p, **said));
        std::printf("%s", ruleText(*p, **said).c_str());
        return 0;
    }
    auto read = readRule(*p, text);
    if (!read)
        return fail(read.error());
    if (!said) {
        const auto name = read->name.empty() ? c.rule : read->name;
        auto edit = addRule(*p, name, c.room, read->when, read->then);
        if (!edit)
            return fail(edit.error());
        return saveEdit(*p,
                        {edit->text,
                         [make = edit->make, one = *read](Project now) -> Result<Project> {
                             auto then = make(std::move(now));
                             if (!then)
                                 return then;
                             auto& r = then->rules.change(then->rules.size() - 1);
                             r.only = one.only, r.otherwise = one.otherwise;
                             return then;
                         }},
                        c.file);
    }
    return saveEdit(*p,
                    {"Write the rule " + (*said)->name,
                     [id = (*said)->id, one = *read, room = c.room](Project now) -> Result<Project> {
                         if (auto* r = now.rule(id)) {
                             r->when = one.when, r->only = one.only, r->then = one.then, r->otherwise = one.otherwise;
                             if (!one.name.empty())
                                 r->name = one.name;
                             if (!room.empty())
                                 r->room = room;
                         }
                         return now;
                     }},
                    c.file);
}

int scripts(const Call& c) {
    auto p = load(c);
    if (!p)
        return fail(p.error());
    json all = json::array();
    if (c.script.empty()) {
        for (const auto& s : p->scripts)
            if (c.asJson)
                all.push_back({{"id", s.id}, {"name", s.name}, {"error", scriptError(s.text)}});
            else
                std::printf("%-24s %s%s\n", s.id.c_str(), s.name.c_str(),
                            scriptError(s.text).empty() ? "" : (", " + scriptError(s.text)).c_str());
        return c.asJson ? say(all) : 0;
    }
    std::string id;
    for (const auto& s : p->scripts)
        if (s.id == c.script || s.name == c.script)
            id = s.id;
    if (c.remove)
        return keep(*p, removeScript(*p, id.empty() ? c.script : id), c);
    if (c.text.empty()) {
        if (id.empty())
            return fail({"there is no such script", c.script, "Give its text with --text."});
        std::printf("%s", p->script(id)->text.c_str());
        return 0;
    }
    const auto text = textOf(c.text);
    if (!text)
        return fail(text.error());
    if (const auto e = scriptError(*text); !e.empty())
        return fail({e, c.text, "Correct it."});
    return keep(*p, id.empty() ? addScript(*p, c.script, *text) : setScript(*p, id, *text), c);
}

int scenes(const Call& c) {
    const auto p = load(c);
    if (!p)
        return fail(p.error());
    json all = json::array();
    for (const auto& s : p->scenes)
        if (c.asJson)
            all.push_back({{"id", s.id}, {"name", s.name}, {"room", s.room}, {"fade", s.fade}, {"values", s.values}});
        else
            std::printf("%-20s %s, %zu values%s%s\n", s.id.c_str(), s.name.c_str(), s.values.size(),
                        s.room.empty() ? "" : (", " + s.room).c_str(),
                        s.fade > 0 ? (", over " + secondsText(s.fade)).c_str() : "");
    return c.asJson ? say(all) : 0;
}

int scene(const Call& c) {
    auto p = load(c);
    if (!p)
        return fail(p.error());
    if (!c.params.empty()) { // PATH, or PATH=VALUE
        std::map<std::string, double> values;
        for (const auto& text : c.params) {
            const auto equal = text.find('=');
            const auto path = text.substr(0, equal);
            if (equal == std::string::npos) {
                const auto now = sceneValuesOf(*p, {path});
                if (now.empty())
                    return fail({"there is no such parameter", path, "loomctl drives lists what there is."});
                values[path] = now.begin()->second;
                continue;
            }
            const auto signal = signalOf(*p, path);
            if (!signal)
                return fail({"there is no such parameter", path, "loomctl drives lists what there is."});
            const auto v = readSignalValue(*signal, text.substr(equal + 1));
            if (!v)
                return fail({v.error().message, text, v.error().remedy});
            values[path] = *v;
        }
        return keep(*p, keepScene(*p, c.scene, c.room, values), c);
    }
    const auto s = sceneSaid(*p, c.scene);
    if (!s)
        return fail(s.error());
    if (c.remove)
        return keep(*p, removeScene(*p, (*s)->id), c);
    if (c.fields.empty()) {
        json j = toJson(**s);
        if (c.asJson)
            return say(j);
        for (const auto& [path, v] : (*s)->values) {
            const auto signal = signalOf(*p, path);
            std::printf("%-44s %s\n", path.c_str(), signal ? valueText(*signal, v).c_str() : "is not there any more");
        }
        const auto f = figuresOf(*p, **s);
        if (f.level)
            std::printf("%s: at the seats %s\n", f.space.c_str(),
                        f.levelThen ? print("%.1f, then %.1f dB(A)", *f.level, *f.levelThen).c_str() : "silent then");
        if (f.spare && f.spareThen)
            std::printf("%s: before feedback %+.1f, then %+.1f dB (%s)\n", f.space.c_str(), *f.spare, *f.spareThen,
                        f.microphone.c_str());
        for (const auto& t : f.twice)
            std::printf("%s is heard twice: over %s, and %.1f dB lower over %s\n", t.talker.c_str(), t.first.c_str(),
                        t.lower, t.second.c_str());
        return 0;
    }
    std::vector<Edit> edits;
    for (const auto& f : c.fields) {
        const auto equal = f.find('=');
        if (equal == std::string::npos)
            return fail({"is no FIELD=VALUE", f, "As in fade=2."});
        edits.push_back(setSceneField((*s)->id, f.substr(0, equal), f.substr(equal + 1)));
    }
    return saveEdit(*p, together(std::move(edits), "Change the scene " + (*s)->name), c.file);
}

int recall(const Call& c) {
    auto p = load(c);
    if (!p)
        return fail(p.error());
    const auto s = sceneSaid(*p, c.scene);
    return s ? keep(*p, recallScene(*p, (*s)->id), c) : fail(s.error());
}

int tests(const Project& p, const Call& c) {
    json all = json::array();
    int bad = 0;
    for (const auto& t : p.ruleTests) {
        const auto r = runTest(p, t);
        bad += !r.passed;
        if (c.asJson)
            all.push_back(
                {{"id", t.id}, {"name", t.name}, {"passed", r.passed}, {"failure", r.failure}, {"events", r.events}});
        else
            std::printf("%s  %s%s\n", r.passed ? "holds" : "fails", t.name.c_str(),
                        r.passed ? "" : (": " + r.failure).c_str());
    }
    if (c.asJson)
        say(all);
    else
        std::printf("%zu tests, %d fail\n", p.ruleTests.size(), bad);
    return bad ? 1 : 0;
}

int rehearse(const Call& c) {
    auto p = load(c);
    if (!p)
        return fail(p.error());
    if (c.day.empty() && c.begins.empty())
        return tests(*p, c);
    const auto zone = Zone::named(p->place.zone);
    const Zone here = zone ? *zone : Zone();
    const auto begins = readMoment(c.begins.empty() ? "2026-03-02T00:00:00" : c.begins, here);
    if (!begins)
        return fail(begins.error());
    Rehearsal r(*p, *begins);
    Millis end = 0;
    if (!c.day.empty()) {
        const auto text = textOf(c.day);
        if (!text)
            return fail(text.error());
        const auto day = readDay(*p, *text, *begins);
        if (!day)
            return fail(day.error());
        for (const auto& one : *day) {
            r.plan(one);
            end = std::max(end, one.at);
        }
    }
    const auto today = here.local(*begins).day;
    Millis until = here.utc(today + 1, 0) - *begins;
    if (!c.until.empty()) {
        const auto t = readTimeOfDay(c.until);
        if (!t)
            return fail(t.error());
        until = here.utc(today, *t) - *begins;
        if (until <= 0)
            return fail({"it ends before it begins", c.until, ""});
    }
    r.go(std::max(until, c.until.empty() ? end : until));
    if (!c.keepAs.empty())
        return keep(*p, addTest(*p, testOf(r, "", c.keepAs)), c);
    json all = json::array();
    for (const auto& e : r.events()) {
        const auto when = momentText(e.utc, here);
        if (c.asJson)
            all.push_back({{"at", when}, {"rule", e.rule}, {"signal", e.path}, {"text", eventText(*p, e)}});
        else
            std::printf("%s  %s%s\n", when.substr(11).c_str(), e.rule.empty() ? "" : "  ", eventText(*p, e).c_str());
    }
    return c.asJson ? say(all) : 0;
}

} // namespace rule_verbs

void addRuleVerbs(CLI::App& app, std::function<int()>& action) {
    using namespace rule_verbs;
    static Call call;
    const auto verb = [&](const char* name, const char* does, const char* example, int (*go)(const Call&)) {
        auto* v = addVerb(app, action, call, name, does, example, go);
        auto* f = v->add_option("FILE", call.file, "Project file or folder");
        if (go != rules) // --kinds needs none
            f->required();
        v->add_flag("--json", call.asJson, "Answer as JSON");
        return v;
    };
    auto* v = verb("rules", "Rules as sentences, and where each is at work", "loomctl rules hall.loom", rules);
    v->add_flag("--kinds", call.kinds, "The sentences there are");
    v->add_flag("--signals", call.happenings, "What can wake a rule");
    v->add_option("--words", call.words, "With --signals: also parameters and readings that have all these words");
    v = verb(
        "rule", "Shows a rule, writes it in lines, or takes it out",
        "loomctl rule hall.loom Closing --add \"when it is 17:45 on weekdays\" --add \"then recall Silent over 5 s\"",
        rule);
    v->add_option("RULE", call.rule, "By id or name; a name that there is none of yet for a new one")->required();
    v->add_option("--add", call.lines, "A line: when ..., only if ..., then ..., else ...; several times for several");
    v->add_option("--text", call.text, "A file with its lines; -: from the standard input");
    v->add_option("--room", call.room, "The space it is of");
    v->add_option("--set", call.fields, "FIELD=VALUE: name, needs (all, any, none), again (restart, ignore, queue)");
    v->add_flag("--on", call.on, "Puts it to work");
    v->add_flag("--off", call.off, "Switches it off");
    v->add_flag("--copy", call.copy, "A copy behind it");
    v->add_flag("--remove", call.remove, "Takes it out");
    v = verb("scripts", "Scripts in Lua that rules run; shows, writes or takes out one",
             "loomctl scripts hall.loom \"Count open microphones\" --text count.lua", scripts);
    v->add_option("SCRIPT", call.script, "By id or name; without it lists them");
    v->add_option("--text", call.text, "A file with its text; -: from the standard input");
    v->add_flag("--remove", call.remove, "Takes it out");
    verb("scenes", "Scenes: values that are set at once or over a fade", "loomctl scenes hall.loom", scenes);
    v = verb("scene", "Shows a scene, keeps one, changes its fields, or takes it out",
             "loomctl scene hall.loom Meeting --room tern heddle/hall.level.gain=-6", scene);
    v->add_option("SCENE", call.scene, "Its name")->required();
    v->add_option("PARAMETERS", call.params, "PATH as it is now, or PATH=VALUE");
    v->add_option("--room", call.room, "The room it is of");
    v->add_option("--set", call.fields, "FIELD=VALUE: fade (s), switches (start, middle, end), atStart (yes, no)");
    v->add_flag("--remove", call.remove, "Takes it out");
    v = verb("recall", "Recalls a scene into the design", "loomctl recall hall.loom Meeting", recall);
    v->add_option("SCENE", call.scene, "By id or name")->required();
    v = verb(
        "rehearse",
        "Runs the tests of rules; or a day of things that happen, and says what the rules did and why (1: one fails)",
        "loomctl rehearse hall.loom --day monday.txt --begins 2026-03-02T08:00:00", rehearse);
    v->add_option("--day", call.day, "A file with lines such as \"08:30 wall:fold open\"; -: from the standard input");
    v->add_option("--begins", call.begins, "Date and time at the place of the project");
    v->add_option("--until", call.until, "A time of that day; without it until midnight");
    v->add_option("--keep", call.keepAs, "Keeps it as a test of this name");
}

} // namespace loom::cli
