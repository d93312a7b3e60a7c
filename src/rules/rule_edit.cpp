#include "rules/rule_edit.h"
#include "model/describe.h"
#include "rooms/room_edit.h"
#include "rules/rule_time.h"
#include "rules/script.h"
#include "rules/search_words.h"
#include "rules/sentence.h"
#include <algorithm>
#include <sstream>

namespace loom::project {
namespace {

Error noRule(const std::string& said) {
    return {"there is no such rule", said.substr(0, 80), "loomctl rules lists them."};
}

Edit changeRule(const std::string& id, std::string text, std::function<std::optional<Error>(Rule&)> how,
                bool merge = false) {
    return {std::move(text),
            [id, how = std::move(how)](Project now) -> Result<Project> {
                auto* r = now.rule(id);
                if (!r)
                    return noRule(id);
                if (const auto e = how(*r))
                    return *e;
                return now;
            },
            "rule " + id, merge};
}

template <class List> std::set<std::string> idsIn(const List& list) {
    std::set<std::string> all;
    for (const auto& one : list)
        all.insert(one.id);
    return all;
}

std::string nameOf(const Project& p, const std::string& rule) {
    const auto* r = p.rule(rule);
    return r && !r->name.empty() ? r->name : rule;
}

std::string trimmed(const std::string& t) {
    const auto begin = t.find_first_not_of(" \t\r");
    return begin == std::string::npos ? "" : t.substr(begin, t.find_last_not_of(" \t\r") - begin + 1);
}

} // namespace

Part partOf(RulePart part) {
    return part == RulePart::when ? Part::trigger : part == RulePart::only ? Part::condition : Part::action;
}

const char* wordOf(RulePart part) {
    static constexpr const char* words[]{"when", "only if", "then", "else"};
    return words[static_cast<std::size_t>(part)];
}

std::vector<Clause>& clausesOf(Rule& r, RulePart part) {
    return part == RulePart::when   ? r.when
           : part == RulePart::only ? r.only
           : part == RulePart::then ? r.then
                                    : r.otherwise;
}

const std::vector<Clause>& clausesOf(const Rule& r, RulePart part) {
    return clausesOf(const_cast<Rule&>(r), part);
}

Result<const Rule*> ruleSaid(const Project& p, const std::string& said) {
    for (const auto& r : p.rules)
        if (r.id == said || r.name == said)
            return &r;
    return noRule(said);
}

Result<Edit> addRule(const Project& p, const std::string& name, const std::string& room, std::vector<Clause> when,
                     std::vector<Clause> then) {
    if (trimmed(name).empty())
        return Error{"a rule has a name", "", "Type one, such as Seminar becomes one room."};
    if (p.rules.size() >= mostRules)
        return Error{"a project has at most 5,000 rules", "", ""};
    auto taken = idsIn(p.rules);
    Rule r;
    r.name = trimmed(name).substr(0, 120);
    r.id = freeId(taken, r.name);
    r.room = room;
    r.when = std::move(when), r.then = std::move(then);
    return Edit{"Add the rule " + r.name, [r](Project now) -> Result<Project> {
                    now.rules.push_back(r);
                    return now;
                }};
}

Result<Edit> removeRule(const Project& p, const std::string& id) {
    if (!p.rule(id))
        return noRule(id);
    return Edit{"Take out the rule " + nameOf(p, id), [id](Project now) -> Result<Project> {
                    erase_if(now.rules, [&](const Rule& r) { return r.id == id; });
                    return now;
                }};
}

Result<Edit> copyRule(const Project& p, const std::string& id) {
    const auto* r = p.rule(id);
    if (!r)
        return noRule(id);
    Rule copy = *r;
    auto taken = idsIn(p.rules);
    copy.name = r->name.substr(0, 115) + " copy";
    copy.id = freeId(taken, copy.name);
    return Edit{"Copy the rule " + r->name, [id, copy](Project now) -> Result<Project> {
                    List<Rule> all;
                    for (const auto& one : now.rules) {
                        all.push_back(one);
                        if (one.id == id)
                            all.push_back(copy);
                    }
                    now.rules = std::move(all);
                    return now;
                }};
}

Edit moveRule(const std::string& id, int by) {
    return {"Move a rule", [id, by](Project now) -> Result<Project> {
                std::vector<Rule> all(now.rules.begin(), now.rules.end());
                const auto it = std::find_if(all.begin(), all.end(), [&](const Rule& r) { return r.id == id; });
                if (it == all.end())
                    return noRule(id);
                const auto at = it - all.begin();
                const auto to = std::clamp<std::ptrdiff_t>(at + by, 0, static_cast<std::ptrdiff_t>(all.size()) - 1);
                if (to < at)
                    std::rotate(all.begin() + to, all.begin() + at, all.begin() + at + 1);
                else
                    std::rotate(all.begin() + at, all.begin() + at + 1, all.begin() + to + 1);
                List<Rule> moved;
                for (auto& r : all)
                    moved.push_back(std::move(r));
                now.rules = std::move(moved);
                return now;
            }};
}

Edit turnRule(const std::string& id, bool on) {
    return changeRule(id, on ? "Put a rule to work" : "Switch a rule off", [on](Rule& r) -> std::optional<Error> {
        r.on = on;
        return {};
    });
}

std::vector<Field> ruleFields(const Rule& r) {
    return shownFields(r);
}

Edit setRuleField(const std::string& id, const std::string& field, const std::string& value) {
    return changeRule(id, "Change a rule",
                      [field, value](Rule& r) { return setShownField(r, field, value, "a rule has no such field"); });
}

// ---- clauses ----

Result<SaidClause> readRuleLine(const Project& p, const std::string& said, RulePart without) {
    const auto text = trimmed(said), low = lowered(text);
    RulePart part = without;
    std::string rest = text;
    for (const auto& [word, means] : {std::pair("when ", RulePart::when),
                                      {"only if ", RulePart::only},
                                      {"if ", RulePart::only},
                                      {"then ", RulePart::then},
                                      {"else ", RulePart::otherwise},
                                      {"otherwise ", RulePart::otherwise}})
        if (low.rfind(word, 0) == 0) {
            part = means, rest = text.substr(std::char_traits<char>::length(word));
            break;
        }
    const auto clause = readClause(p, partOf(part), rest);
    if (!clause)
        return clause.error();
    return SaidClause{part, *clause};
}

Edit addClause(const std::string& rule, RulePart part, Clause clause, std::size_t at) {
    return changeRule(rule, "Add to a rule", [=](Rule& r) -> std::optional<Error> {
        auto& list = clausesOf(r, part);
        if (list.size() >= mostClauses)
            return Error{"a rule has at most 100 of these", r.name, "Let it wake another rule."};
        list.insert(list.begin() + static_cast<std::ptrdiff_t>(std::min(at, list.size())), clause);
        return {};
    });
}

Edit setClause(const std::string& rule, RulePart part, std::size_t at, Clause clause, std::string text) {
    return changeRule(rule, text.empty() ? "Change a rule" : std::move(text), [=](Rule& r) -> std::optional<Error> {
        auto& list = clausesOf(r, part);
        if (at >= list.size())
            return Error{"the rule has no such line", r.name, ""};
        list[at] = clause;
        return {};
    });
}

Edit removeClause(const std::string& rule, RulePart part, std::size_t at) {
    return changeRule(rule, "Take a line out of a rule", [=](Rule& r) -> std::optional<Error> {
        auto& list = clausesOf(r, part);
        if (at >= list.size())
            return Error{"the rule has no such line", r.name, ""};
        list.erase(list.begin() + static_cast<std::ptrdiff_t>(at));
        return {};
    });
}

Edit moveClause(const std::string& rule, RulePart part, std::size_t at, int by) {
    return changeRule(rule, "Move a line of a rule", [=](Rule& r) -> std::optional<Error> {
        auto& list = clausesOf(r, part);
        const auto to = static_cast<std::ptrdiff_t>(at) + by;
        if (at >= list.size() || to < 0 || to >= static_cast<std::ptrdiff_t>(list.size()))
            return {};
        std::swap(list[at], list[static_cast<std::size_t>(to)]);
        return {};
    });
}

Result<Rule> readRule(const Project& p, const std::string& text) {
    Rule r;
    std::istringstream lines(text);
    std::string line;
    for (int number = 1; std::getline(lines, line); ++number) {
        line = trimmed(line);
        if (line.empty() || line[0] == '#')
            continue;
        const auto said = readRuleLine(p, line, RulePart::when);
        const auto low = lowered(line);
        const bool worded = low.rfind("when ", 0) == 0 || low.rfind("only if ", 0) == 0 || low.rfind("if ", 0) == 0 ||
                            low.rfind("then ", 0) == 0 || low.rfind("else ", 0) == 0 || low.rfind("otherwise ", 0) == 0;
        if (!worded) {
            if (r.name.empty() && r.when.empty() && r.then.empty()) {
                r.name = line.substr(0, 120);
                continue;
            }
            return Error{"it does not begin with when, only if, then or else", "line " + std::to_string(number), ""};
        }
        if (!said)
            return Error{said.error().message, "line " + std::to_string(number), said.error().remedy};
        auto& list = clausesOf(r, said->part);
        if (list.size() >= mostClauses)
            return Error{"has more than 100 of these", "line " + std::to_string(number), ""};
        list.push_back(said->clause);
    }
    if (r.when.empty() && r.then.empty())
        return Error{"nothing is said in it", "", "Begin with its name, then when ..., then ..."};
    return r;
}

std::string ruleText(const Project& p, const Rule& r) {
    std::string text = r.name + "\n";
    for (const auto part : {RulePart::when, RulePart::only, RulePart::then, RulePart::otherwise})
        for (const auto& c : clausesOf(r, part))
            text += std::string(wordOf(part)) + " " + sentenceText(p, partOf(part), c) + "\n";
    return text;
}

// ---- scripts ----

Result<Edit> addScript(const Project& p, const std::string& name, const std::string& text) {
    if (trimmed(name).empty())
        return Error{"a script has a name", "", "Type one, such as Count open microphones."};
    if (text.size() > longestScript)
        return Error{"a script has at most 100,000 bytes", name.substr(0, 60), "Split it."};
    if (p.scripts.size() >= mostScripts)
        return Error{"a project has at most 500 scripts", "", ""};
    auto taken = idsIn(p.scripts);
    Script s;
    s.name = trimmed(name).substr(0, 120);
    s.id = freeId(taken, s.name);
    s.text = text;
    return Edit{"Add the script " + s.name, [s](Project now) -> Result<Project> {
                    now.scripts.push_back(s);
                    return now;
                }};
}

Result<Edit> setScript(const Project& p, const std::string& id, const std::string& text) {
    const auto* s = p.script(id);
    if (!s)
        return Error{"there is no such script", id.substr(0, 80), ""};
    if (text.size() > longestScript)
        return Error{"a script has at most 100,000 bytes", s->name, "Split it."};
    return Edit{"Change the script " + s->name,
                [id, text](Project now) -> Result<Project> {
                    if (auto* one = now.script(id))
                        one->text = text;
                    return now;
                },
                "script " + id, true};
}

Result<Edit> removeScript(const Project& p, const std::string& id) {
    const auto* s = p.script(id);
    if (!s)
        return Error{"there is no such script", id.substr(0, 80), ""};
    return Edit{"Take out the script " + s->name, [id](Project now) -> Result<Project> {
                    erase_if(now.scripts, [&](const Script& one) { return one.id == id; });
                    return now;
                }};
}

// ---- tests ----

Result<Edit> addTest(const Project& p, RehearsalTest test) {
    if (p.ruleTests.size() >= mostRuleTests)
        return Error{"a project has at most 2,000 tests of rules", "", "Take some out."};
    if (test.expect.empty())
        return Error{"nothing is expected in it", test.name, "Let some rule set something first."};
    auto taken = idsIn(p.ruleTests);
    if (test.name.empty())
        test.name = "Test " + std::to_string(p.ruleTests.size() + 1);
    test.id = freeId(taken, test.name);
    return Edit{"Keep the test " + test.name, [test](Project now) -> Result<Project> {
                    now.ruleTests.push_back(test);
                    return now;
                }};
}

Result<Edit> removeTest(const Project& p, const std::string& id) {
    for (const auto& t : p.ruleTests)
        if (t.id == id)
            return Edit{"Take out the test " + t.name, [id](Project now) -> Result<Project> {
                            erase_if(now.ruleTests, [&](const RehearsalTest& one) { return one.id == id; });
                            return now;
                        }};
    return Error{"there is no such test", id.substr(0, 80), "loomctl rehearse lists them."};
}

// ---- scenes ----

Result<Edit> setSceneValue(const Project& p, const std::string& scene, const std::string& path,
                           std::optional<double> value) {
    const auto* s = p.scene(scene);
    if (!s)
        return Error{"there is no such scene", scene.substr(0, 80), "loomctl scenes lists them."};
    const auto signal = signalOf(p, path);
    if (value && (!signal || !signal->settable || signal->pulse))
        return Error{"a scene cannot set it", path.substr(0, 80), "Choose a parameter."};
    if (value && !(*value >= signal->spec.min && *value <= signal->spec.max))
        return Error{"the value is outside the range", signal->label, ""};
    if (value && s->values.size() >= mostInScene && !s->values.count(path))
        return Error{"a scene sets at most 5,000 parameters", s->name, ""};
    return Edit{"Change the scene " + s->name, [scene, path, value](Project now) -> Result<Project> {
                    if (auto* one = now.scene(scene)) {
                        if (value)
                            one->values[path] = *value;
                        else
                            one->values.erase(path);
                    }
                    return now;
                }};
}

std::vector<Field> sceneFields(const Scene& s) {
    return shownFields(s);
}

Edit setSceneField(const std::string& id, const std::string& field, const std::string& value) {
    return {"Change a scene", [=](Project now) -> Result<Project> {
                auto* s = now.scene(id);
                if (!s)
                    return Error{"there is no such scene", id.substr(0, 80), ""};
                if (const auto e = setShownField(*s, field, value, "a scene has no such field"))
                    return *e;
                return now;
            }};
}

Edit setRulePlace(const std::string& field, const std::string& value) {
    return {"Change where the project is", [=](Project now) -> Result<Project> {
                if (const auto e = setShownField(now.place, field, value, "a place has no such field"))
                    return *e;
                if (const auto z = Zone::named(now.place.zone); !z)
                    return z.error();
                return now;
            }};
}

} // namespace loom::project
