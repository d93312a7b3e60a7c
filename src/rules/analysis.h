// What is wrong with rules before they ever run.
#pragma once
#include "rules/rule_book.h"

namespace loom::project {

struct RuleTrouble {
    enum class Kind {
        cannot,     // a clause that cannot be: what it speaks of is gone, or a gap is open
        neverWakes, // no trigger, or conditions that are never met
        forEver,    // rules that wake each other again and again without a pause
        fight,      // two that set one thing to different values at the same moment
        emptyScene, // a scene of which nothing, or not all, is there
        script,     // text that is no program
        zone        // the place's time zone is none
    };
    Kind kind{};
    std::string rule{}, what{}; // what: a scene's or script's id
    std::string reason{}, remedy{};
    std::vector<std::string> way{}; // rules, in the order in which they wake each other
};
// In the order of the rules. Looks at what is written; at nothing that runs.
std::vector<RuleTrouble> lookOver(const RuleBook& book);

} // namespace loom::project
