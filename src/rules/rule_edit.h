// Edits of rules, scripts, scenes' tables and tests of rules.
#pragma once
#include "model/edit.h"
#include "rules/clause_kind.h"
#include "schema/field.h"

namespace loom::project {

// Where a clause stands in a rule.
enum class RulePart { when, only, then, otherwise };
Part partOf(RulePart part);
const char* wordOf(RulePart part); // "when", "only if", "then", "else"
std::vector<Clause>& clausesOf(Rule& rule, RulePart part);
const std::vector<Clause>& clausesOf(const Rule& rule, RulePart part);

// ---- rules ----
// By id or name. Error: there is no such.
Result<const Rule*> ruleSaid(const Project& project, const std::string& said);
Result<Edit> addRule(const Project& project, const std::string& name, const std::string& room,
                     std::vector<Clause> when = {}, std::vector<Clause> then = {});
Result<Edit> removeRule(const Project& project, const std::string& rule);
Result<Edit> copyRule(const Project& project, const std::string& rule);
Edit moveRule(const std::string& rule, int by); // in the list; they are told from top to bottom
Edit turnRule(const std::string& rule, bool on);
std::vector<Field> ruleFields(const Rule& rule);
Edit setRuleField(const std::string& rule, const std::string& field, const std::string& value);

// ---- clauses ----
// "when the wall opens", "only if ...", "then ...", "else ..."; without such a word it is read as `otherwise says`.
struct SaidClause {
    RulePart part{};
    Clause clause{};
};
Result<SaidClause> readRuleLine(const Project& project, const std::string& text, RulePart without = RulePart::then);
// at: before that one; beyond the last: behind it.
Edit addClause(const std::string& rule, RulePart part, Clause clause, std::size_t at = mostClauses);
Edit setClause(const std::string& rule, RulePart part, std::size_t at, Clause clause, std::string text = "");
Edit removeClause(const std::string& rule, RulePart part, std::size_t at);
Edit moveClause(const std::string& rule, RulePart part, std::size_t at, int by);
// A rule in lines: its name, then "when ...", "only if ...", "then ...", "else ...". Error: the line.
Result<Rule> readRule(const Project& project, const std::string& text);
std::string ruleText(const Project& project, const Rule& rule); // reads as the same

// ---- scripts ----
Result<Edit> addScript(const Project& project, const std::string& name, const std::string& text);
Result<Edit> setScript(const Project& project, const std::string& script, const std::string& text); // error: none
Result<Edit> removeScript(const Project& project, const std::string& script);

// ---- tests ----
Result<Edit> addTest(const Project& project, RehearsalTest test); // its id is made free
Result<Edit> removeTest(const Project& project, const std::string& test);

// ---- scenes as a table ----
// A value of a scene; none: it leaves the parameter alone.
Result<Edit> setSceneValue(const Project& project, const std::string& scene, const std::string& path,
                           std::optional<double> value);
std::vector<Field> sceneFields(const Scene& scene);
Edit setSceneField(const std::string& scene, const std::string& field, const std::string& value);
Edit setRulePlace(const std::string& field, const std::string& value);

} // namespace loom::project
