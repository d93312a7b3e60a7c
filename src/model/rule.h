// Rules: what happens when. Each part of one is a clause, a sentence with gaps: which sentences there are stands in
// rules/clause_kind.h, what fills their gaps in rules/signal.h.
#pragma once
#include "schema/extra.h"
#include <map>
#include <string>
#include <vector>

namespace loom::project {

// {"kind": "becomes", "gaps": {"signal": "wall:fold", "state": "open", "for": "2"}}
struct Clause {
    std::string kind;
    std::map<std::string, std::string> gaps{}; // what fills its gaps, as files have it
    schema::Extra extra{};
    const std::string& operator[](const std::string& slot) const; // "": it is left open
    bool operator==(const Clause&) const = default;
};

struct Rule {
    enum class Needs { all, any, none };         // of its conditions
    enum class Again { restart, ignore, queue }; // woken while it is still at it
    std::string id, name;
    std::string room{}; // a space ("council", "tern+plover"); "": of the whole project
    bool on = true;
    std::vector<Clause> when{}; // any of them wakes it
    Needs needs = Needs::all;
    std::vector<Clause> only{};              // conditions
    std::vector<Clause> then{}, otherwise{}; // one after the other; otherwise: the conditions do not hold
    Again again = Again::restart;
    schema::Extra extra{};
    bool operator==(const Rule&) const = default;
};

// A program in Lua that rules run (rules/script.h).
struct Script {
    std::string id, name, text{};
    schema::Extra extra{};
    bool operator==(const Script&) const = default;
};

// Something that happens in a test, or that is looked at there. Values are written as in clauses.
struct RehearsalStep {
    double at = 0;        // s after the test begins
    std::string signal{}; // a path
    std::string to{};     // what it becomes, or is to be
    schema::Extra extra{};
    bool operator==(const RehearsalStep&) const = default;
};

// Kept from a rehearsal: given, when, expect.
struct RehearsalTest {
    std::string id, name;
    std::string begins = "2026-03-02T08:00:00"; // local time of the place
    std::vector<RehearsalStep> given{};         // before it begins; their times do not count
    std::vector<RehearsalStep> when{}, expect{};
    schema::Extra extra{};
    bool operator==(const RehearsalTest&) const = default;
};

// Where the project is: for sunrise and the hours of the day.
struct RulePlace {
    double latitude = 54.2, longitude = 9.1; // degrees, north and east are positive
    std::string zone = "Europe/Berlin";      // of the IANA time zone database
    schema::Extra extra{};
    bool operator==(const RulePlace&) const = default;
};

// "2026-03-02T08:00:00": a day that the calendar has, and a time of it.
bool isMoment(const std::string& text);

inline constexpr std::size_t mostRules = 5000, mostClauses = 100, mostScripts = 500, mostRuleTests = 2000,
                             mostTestSteps = 2000, longestScript = 100000;

} // namespace loom::project
