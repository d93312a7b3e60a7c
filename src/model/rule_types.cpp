// The declarations of rules (model/rule.h).
#include "model/describe.h"
#include <algorithm>

namespace loom::schema {

using namespace project;

namespace {

constexpr std::size_t mostGaps = 20, longestGap = 500;
constexpr double longestTest = 8 * 86400; // s

Type<Clause> clauseType() {
    Type<Clause> t("clause", "A part of a rule: a trigger, a condition or an action");
    t.add("kind", &Clause::kind).needed().letters(40).help("`loomctl rules --kinds` lists them");
    t.add("gaps", &Clause::gaps).help("what fills the gaps of its sentence");
    t.rule([](const Clause& c, const At& at, Reading& r) {
        if (c.gaps.size() > mostGaps)
            return r.fail(At(at, "gaps"), "has more than 20 gaps");
        for (const auto& [key, text] : c.gaps)
            if (key.size() > 40 || text.size() > longestGap)
                return r.fail(At(At(at, "gaps"), key.substr(0, 40)), "is longer than 500 bytes");
    });
    t.extra(&Clause::extra);
    return t;
}

Type<Rule> ruleType() {
    Type<Rule> t("rule", "What happens when");
    t.add("id", &Rule::id).id();
    t.add("name", &Rule::name).letters(120).label("Name").always();
    t.add("room", &Rule::room).letters(400).help("a space, as in `tern+plover`; without it of the whole project");
    t.add("on", &Rule::on).label("At work").yesFirst();
    t.add("when", &Rule::when).items(0, mostClauses).help("any of them wakes it").always();
    t.add("needs", &Rule::needs)
        .choices({"all", "any", "none"})
        .named({"All of them", "Any of them", "None of them"})
        .label("Conditions hold")
        .help("how many of its conditions have to hold");
    t.add("only", &Rule::only).items(0, mostClauses).help("conditions");
    t.add("then", &Rule::then).items(0, mostClauses).help("actions, one after the other").always();
    t.add("otherwise", &Rule::otherwise).items(0, mostClauses).help("actions where the conditions do not hold");
    t.add("again", &Rule::again)
        .choices({"restart", "ignore", "queue"})
        .named({"Begins anew", "Is not woken", "Does it once more afterwards"})
        .label("Woken while at it")
        .help("what it does when it is woken before it is done");
    t.extra(&Rule::extra);
    return t;
}

Type<Script> scriptType() {
    Type<Script> t("script", "A program in Lua 5.4 that rules run");
    t.add("id", &Script::id).id();
    t.add("name", &Script::name).letters(120).label("Name").always();
    t.add("text", &Script::text).letters(longestScript).always();
    t.extra(&Script::extra);
    return t;
}

Type<RehearsalStep> stepType() {
    Type<RehearsalStep> t("rehearsalStep", "What happens in a test of rules, or is looked at there");
    t.add("at", &RehearsalStep::at).range(0, longestTest).help("s after the test begins");
    t.add("signal", &RehearsalStep::signal).needed().letters(500).help("a path, as in `wall:fold`");
    t.add("to", &RehearsalStep::to).letters(500).help("what it becomes, or is to be").always();
    t.extra(&RehearsalStep::extra);
    return t;
}

Type<RehearsalTest> testType() {
    Type<RehearsalTest> t("rehearsalTest", "A test of rules: given, when, expect");
    t.add("id", &RehearsalTest::id).id();
    t.add("name", &RehearsalTest::name).letters(120).label("Name").always();
    t.add("begins", &RehearsalTest::begins)
        .pattern("\\d{4}-\\d{2}-\\d{2}T\\d{2}:\\d{2}:\\d{2}")
        .help("date and time at the place of the project")
        .always();
    t.add("given", &RehearsalTest::given).items(0, mostTestSteps);
    t.add("when", &RehearsalTest::when).items(0, mostTestSteps);
    t.add("expect", &RehearsalTest::expect).items(0, mostTestSteps);
    t.rule([](const RehearsalTest& test, const At& at, Reading& r) {
        if (!isMoment(test.begins))
            r.fail(At(at, "begins"), "must be a date and a time as in 2026-03-02T08:00:00");
    });
    t.extra(&RehearsalTest::extra);
    return t;
}

Type<RulePlace> placeType() {
    Type<RulePlace> t("rulePlace", "Where the project is");
    t.add("latitude", &RulePlace::latitude).range(-90, 90).label("Latitude", "\u00b0", 4).always();
    t.add("longitude", &RulePlace::longitude).range(-180, 180).label("Longitude", "\u00b0", 4).always();
    t.add("zone", &RulePlace::zone).letters(60).label("Time zone").help("of the IANA time zone database").always();
    t.extra(&RulePlace::extra);
    return t;
}

} // namespace

LOOM_TYPE(Clause, clauseType)
LOOM_TYPE(Rule, ruleType)
LOOM_TYPE(Script, scriptType)
LOOM_TYPE(RehearsalStep, stepType)
LOOM_TYPE(RehearsalTest, testType)
LOOM_TYPE(RulePlace, placeType)

} // namespace loom::schema
