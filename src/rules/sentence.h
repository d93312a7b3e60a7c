// Clauses as people read and type them: a sentence with its gaps filled.
#pragma once
#include "rules/clause_kind.h"
#include "rules/signal.h"

namespace loom::project {

// A piece of a sentence: words, or what fills a gap.
struct SentencePiece {
    std::string text{}, gap{}; // gap: its id; "": words
    bool wrong = false;        // what fills it is not there, or cannot be; text is as files have it
};
// An unknown kind is one wrong piece.
std::vector<SentencePiece> sentenceOf(const Project& project, Part part, const Clause& clause);
std::string sentenceText(const Project& project, Part part, const Clause& clause);

// Reads a typed sentence; names may be written as they are shown, as paths, or by words that only one thing has.
// Error: how far it could be read, and what would do there. At most 500 bytes.
Result<Clause> readClause(const Project& project, Part part, const std::string& text);

// What could fill a gap, best first.
struct GapChoice {
    std::string value, text, help;
};
std::vector<GapChoice> gapChoices(const Project& project, const ClauseKind& kind, const Clause& clause,
                                  const std::string& gap, const std::string& typed, std::size_t most);
// The clause with a gap filled as it was typed; "": left open, where it may be.
Result<Clause> withGap(const Project& project, Part part, const Clause& clause, const std::string& gap,
                       const std::string& typed);
// How the line could go on: all of it, up to the next gap.
struct Completion {
    std::string line, shown, help;
    bool whole = false; // it is a sentence then
};
std::vector<Completion> completionsOf(const Project& project, Part part, const std::string& typed, std::size_t most);

// The range of what stands in a gap of a state or number. None: what it depends on is not there.
std::optional<Signal> signalOfGap(const Project& project, const Clause& clause, const GapSpec& gap);
// Blocks that play files, as "foyer/player" with their names; files of one.
std::vector<GapChoice> playersOf(const Project& project);
std::vector<std::string> filesOf(const Project& project, const std::string& player);
// Seconds as people type them: "2", "0.8 s", "500 ms", "5 min", "1 h". Minutes likewise.
Result<double> readSeconds(const std::string& text);
std::string secondsText(double seconds);

inline constexpr std::size_t longestSentence = 500; // bytes

} // namespace loom::project
