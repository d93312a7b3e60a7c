// The sentences that rules are made of: each kind of trigger, condition and action declared once. What reads, writes,
// completes, compiles and documents them follows.
#pragma once
#include "model/rule.h"
#include <string>
#include <vector>

namespace loom::project {

enum class Part { trigger, condition, action };

// What fills a gap.
enum class Gap {
    signal,  // anything with a state or a number
    level,   // anything with a number
    target,  // anything that rules set
    amount,  // a target with a number
    toggled, // a target that is on or off
    state,   // of the signal in this clause
    change,  // a difference of the signal's unit
    cue,
    scene,
    line, // what happens
    seconds,
    minutes,
    time,
    days,
    dates,
    side,
    sun,
    text,
    number, // words; a telephone number
    player,
    file, // a block that plays, and one of its files
    surface,
    page,
    ply,
    script,
    rule
};

struct GapSpec {
    std::string id;
    Gap gap;
};

struct ClauseKind {
    std::string id;
    Part part;
    std::string sentence; // "{signal} becomes {state}[ and stays so for {for}]": brackets may be left out
    std::string help;
    std::vector<GapSpec> gaps;
    const GapSpec* gap(const std::string& id) const; // null: it has none
    // Whether the sentence needs it.
    bool needs(const std::string& gap) const;
};

const std::vector<ClauseKind>& clauseKinds();
const ClauseKind* findClauseKind(Part part, const std::string& id); // null: there is none

// A sentence taken apart.
struct SentencePart {
    std::string words{}, gap{}; // one of them is empty
    int open = 0;               // number of the brackets that it stands in, from 1; 0: in none
};
const std::vector<SentencePart>& sentenceParts(const ClauseKind& kind);

} // namespace loom::project
