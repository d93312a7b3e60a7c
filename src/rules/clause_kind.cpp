#include "rules/clause_kind.h"
#include <algorithm>
#include <map>

namespace loom::project {
namespace {

std::vector<ClauseKind> declared() {
    constexpr auto trigger = Part::trigger, condition = Part::condition, action = Part::action;
    return {
        // -- what wakes a rule --
        {"becomes",
         trigger,
         "{signal} becomes {state}[ and stays so for {for}]",
         "A wall, button, contact, line, device or parameter gets into a state.",
         {{"signal", Gap::signal}, {"state", Gap::state}, {"for", Gap::seconds}}},
        {"above",
         trigger,
         "{signal} rises above {state}[ and stays so for {for}]",
         "A level or number rises.",
         {{"signal", Gap::level}, {"state", Gap::state}, {"for", Gap::seconds}}},
        {"below",
         trigger,
         "{signal} falls below {state}[ and stays so for {for}]",
         "A level or number falls.",
         {{"signal", Gap::level}, {"state", Gap::state}, {"for", Gap::seconds}}},
        {"changes",
         trigger,
         "{signal} is turned",
         "A knob, level or choice is changed, whereto ever.",
         {{"signal", Gap::signal}}},
        {"cue",
         trigger,
         "the cue {cue} is given",
         "By a button of a surface, another rule, or from outside.",
         {{"cue", Gap::cue}}},
        {"scene", trigger, "the scene {scene} is recalled", "By whomever.", {{"scene", Gap::scene}}},
        {"start", trigger, "power comes", "The processor starts.", {}},
        {"time",
         trigger,
         "it is {time} on {days}[ except {dates}][, up to {late} late]",
         "A time of day. \"Late\": it is made up for when power was away, or the clock was wrong.",
         {{"time", Gap::time}, {"days", Gap::days}, {"dates", Gap::dates}, {"late", Gap::minutes}}},
        {"sun",
         trigger,
         "it is[ {offset} {side}] {sun} on {days}[ except {dates}][, up to {late} late]",
         "Sunrise or sunset where the project is, or minutes before or after it.",
         {{"offset", Gap::minutes},
          {"side", Gap::side},
          {"sun", Gap::sun},
          {"days", Gap::days},
          {"dates", Gap::dates},
          {"late", Gap::minutes}}},
        {"every",
         trigger,
         "every {minutes}",
         "Again and again, counted from midnight of UTC.",
         {{"minutes", Gap::minutes}}},
        // -- whether it does something then --
        {"is", condition, "{signal} is {state}", "", {{"signal", Gap::signal}, {"state", Gap::state}}},
        {"not", condition, "{signal} is not {state}", "", {{"signal", Gap::signal}, {"state", Gap::state}}},
        {"over", condition, "{signal} is above {state}", "", {{"signal", Gap::level}, {"state", Gap::state}}},
        {"under", condition, "{signal} is below {state}", "", {{"signal", Gap::level}, {"state", Gap::state}}},
        {"between",
         condition,
         "it is between {from} and {to}",
         "Hours of the day; also over midnight, as in 22:00 and 6:00.",
         {{"from", Gap::time}, {"to", Gap::time}}},
        {"days",
         condition,
         "today is one of {days}[ except {dates}]",
         "",
         {{"days", Gap::days}, {"dates", Gap::dates}}},
        {"last", condition, "{scene} was the last scene", "Of all scenes of its room.", {{"scene", Gap::scene}}},
        // -- what it does --
        {"scene",
         action,
         "recall {scene}[ over {over}]",
         "At once, or over a fade.",
         {{"scene", Gap::scene}, {"over", Gap::seconds}}},
        {"set",
         action,
         "set {signal} to {state}[ over {over}]",
         "At once, or over a fade.",
         {{"signal", Gap::target}, {"state", Gap::state}, {"over", Gap::seconds}}},
        {"step",
         action,
         "change {signal} by {by}[ over {over}]",
         "Up, or down with a minus sign.",
         {{"signal", Gap::amount}, {"by", Gap::change}, {"over", Gap::seconds}}},
        {"toggle", action, "turn {signal} over", "Off what is on, on what is off.", {{"signal", Gap::toggled}}},
        {"wait", action, "wait {for}", "What follows is done afterwards.", {{"for", Gap::seconds}}},
        {"play",
         action,
         "play {file} on {player}[ at {level}]",
         "A file of the player's list.",
         {{"file", Gap::file}, {"player", Gap::player}, {"level", Gap::state}}},
        {"stop", action, "stop {player}", "", {{"player", Gap::player}}},
        {"page",
         action,
         "{surface} shows the page {page}",
         "On every screen that shows the surface.",
         {{"surface", Gap::surface}, {"page", Gap::page}}},
        {"open",
         action,
         "{surface} opens {ply}",
         "A ply of the page that is seen.",
         {{"surface", Gap::surface}, {"ply", Gap::ply}}},
        {"close", action, "{surface} closes {ply}", "", {{"surface", Gap::surface}, {"ply", Gap::ply}}},
        {"say",
         action,
         "{surface} says {text}[ for {for}]",
         "Over whatever page is seen.",
         {{"surface", Gap::surface}, {"text", Gap::text}, {"for", Gap::seconds}}},
        {"dial", action, "{line} dials {number}", "", {{"line", Gap::line}, {"number", Gap::number}}},
        {"answer", action, "{line} answers", "", {{"line", Gap::line}}},
        {"hangup", action, "{line} hangs up", "", {{"line", Gap::line}}},
        {"cue", action, "give the cue {cue}", "Other rules, and what is outside, hear of it.", {{"cue", Gap::cue}}},
        {"rule", action, "wake the rule {rule}", "", {{"rule", Gap::rule}}},
        {"script", action, "run {script}", "A program in Lua.", {{"script", Gap::script}}},
        {"note", action, "note {text}", "In the log of the processor.", {{"text", Gap::text}}},
    };
}

std::vector<SentencePart> takenApart(const std::string& s) {
    std::vector<SentencePart> all;
    int open = 0, brackets = 0;
    std::string words;
    const auto flush = [&] {
        if (!words.empty())
            all.push_back({words, "", open});
        words.clear();
    };
    for (std::size_t i = 0; i < s.size(); ++i) {
        if (s[i] == '[') {
            flush();
            open = ++brackets;
        } else if (s[i] == ']') {
            flush();
            open = 0;
        } else if (s[i] == '{') {
            flush();
            const auto end = s.find('}', i);
            all.push_back({"", s.substr(i + 1, end - i - 1), open});
            i = end;
        } else {
            words += s[i];
        }
    }
    flush();
    return all;
}

} // namespace

const GapSpec* ClauseKind::gap(const std::string& name) const {
    for (const auto& g : gaps)
        if (g.id == name)
            return &g;
    return nullptr;
}

bool ClauseKind::needs(const std::string& name) const {
    const auto& parts = sentenceParts(*this);
    return std::any_of(parts.begin(), parts.end(), [&](const auto& p) { return p.gap == name && p.open == 0; });
}

const std::vector<ClauseKind>& clauseKinds() {
    static const auto all = declared();
    return all;
}

const ClauseKind* findClauseKind(Part part, const std::string& id) {
    for (const auto& k : clauseKinds())
        if (k.part == part && k.id == id)
            return &k;
    return nullptr;
}

const std::vector<SentencePart>& sentenceParts(const ClauseKind& kind) {
    static const auto all = [] {
        std::map<const ClauseKind*, std::vector<SentencePart>> parts;
        for (const auto& k : clauseKinds())
            parts[&k] = takenApart(k.sentence);
        return parts;
    }();
    return all.at(&kind);
}

} // namespace loom::project
