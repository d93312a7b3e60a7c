// What people say to Weave: "highpass 90 eq 3k1 +3 Q2" for the lanes they chose, "source Chair, Delegate x8"
// for new ones, "> ceiling* -6" to route. One phrase is one change.
#pragma once
#include "engine/program.h"
#include "engine/result.h"
#include "model/project.h"

namespace loom::project {

// One block of a phrase, with what was said of it.
struct SaidBlock {
    std::string kind;
    std::map<std::string, double> values{};
    std::string label{}; // ends: all words that are no number of copies and no port; "{n}" counts
    std::string port{};  // ends: "@usb1" without the sign
    int copies = 1;      // ends: "x8"
};

// Kinds are known by id or by the beginning of their label (three letters or more, if only one begins so). The words
// behind a kind are its values in any order: with a unit or sign they go to the first parameter of that unit that has
// none yet, bare numbers to the first of any; "param=value", names of switches and choices go where they belong. A
// further frequency of an equaliser opens its next band. "/" ends a block; so does the name of another kind, except
// behind a source or destination, whose words are its name. Error names the word that fits nothing.
Result<std::vector<SaidBlock>> readPhrase(const std::string& text);

struct Spoken {
    engine::Program program;
    std::vector<std::string> lanes{}; // ends or hub to choose afterwards; empty: the same as before
    std::string block{};              // and bead, if it is one lane
    std::string text{};               // for undo: "Insert High-pass on 8 lanes"
};

// Says a phrase to the lanes whose ends (sources, destinations) or hubs are `lanes`; `after`: behind this bead
// and its counterparts on the other lanes. Blocks of one way in and out go onto every lane. A block that lanes meet at
// (matrix mixer, automatic mixer, echo canceller ...) comes once: sources chosen become its inputs, destinations its
// outputs, and it gets as many channels. Ends become lanes of their own at free ports of the device. ">" or "→" routes
// (program/routes.h).
Result<Spoken> speak(const Device& device, const std::vector<std::string>& lanes, const std::string& after,
                     const std::string& phrase);

// New names for blocks: "{n}" counts from 1.
engine::Program renameBlocks(const engine::Program& p, const std::vector<std::string>& blocks,
                             const std::string& pattern);

} // namespace loom::project
