#include "loudspeaker/sheet/part.h"
#include "dsp/number.h"
#include "loudspeaker/sheet/item.h"
#include "loudspeaker/sheet/keys.h"
#include <algorithm>

namespace loom::loudspeaker::sheet {
namespace {

constexpr std::size_t shortText = 400, apart = 12, around = 6, longestPart = 1500;

// Does a line look as if it said a fact: a digit, and a unit or sign that facts have? A look, no reading.
bool mayTell(const std::string& line) {
    bool digit = false, unit = false;
    for (std::size_t i = 0; i < line.size() && !(digit && unit); ++i) {
        const char c = line[i];
        digit = digit || (c >= '0' && c <= '9');
        const char low = static_cast<char>(c | 32);
        if (low == 'h' && i + 1 < line.size() && (line[i + 1] | 32) == 'z')
            unit = true;
        if (low == 'd' && i + 1 < line.size() && (line[i + 1] | 32) == 'b')
            unit = true;
        if (low == 'o' && line.compare(i, 3, "ohm") == 0)
            unit = true;
        if ((c == 'W' || low == 'm') && i > 0 && (line[i - 1] == ' ' || (line[i - 1] >= '0' && line[i - 1] <= '9')))
            unit = true;
        if (line.compare(i, 2, "\u03a9") == 0 || line.compare(i, 3, "\u2126") == 0)
            unit = true;
    }
    return digit && unit;
}

int factsIn(Lexer& lexer, const std::string& line, std::size_t n) {
    int keys = 0, values = 0;
    for (const auto* i : lexer.itemsOf(lettersOf(line, n))) {
        const auto key = keyOf(*i);
        keys += key && key != Means::ignored && key != Means::name && key != Means::maker && i->text.size() > 1;
        values += i->is == Item::Is::number && i->unit != Unit::none && i->unit != Unit::other;
    }
    return std::min(keys, values);
}

} // namespace

Part partThatMatters(const std::vector<std::string>& lines) {
    if (lines.size() <= shortText)
        return {0, lines.size(), {}};
    struct Run {
        std::size_t from, to;
        int facts;
    };
    std::vector<Run> runs;
    Lexer lexer(Lexicon::standard(), {});
    for (std::size_t n = 0; n < lines.size(); ++n) {
        if (!mayTell(lines[n]))
            continue;
        const int facts = factsIn(lexer, lines[n], n);
        if (facts == 0)
            continue;
        if (!runs.empty() && n - runs.back().to < apart) {
            runs.back().to = n + 1;
            runs.back().facts += facts;
        } else {
            runs.push_back({n, n + 1, facts});
        }
    }
    if (runs.empty())
        return {0, shortText, print("Nothing in its %d lines looks like a sheet.", static_cast<int>(lines.size()))};
    const auto best =
        std::max_element(runs.begin(), runs.end(), [](const Run& a, const Run& b) { return a.facts < b.facts; });
    Part part{best->from - std::min(best->from, around), std::min(lines.size(), best->to + around), {}};
    part.to = std::min(part.to, part.from + longestPart);
    part.note = print("Of %d lines %d to %d were read", static_cast<int>(lines.size()), static_cast<int>(part.from + 1),
                      static_cast<int>(part.to));
    int others = 0;
    std::string where;
    for (const auto& r : runs)
        if (&r != &*best && r.facts * 2 >= best->facts && ++others <= 4)
            where += (where.empty() ? "" : ", ") + print("%d", static_cast<int>(r.from + 1));
    part.note +=
        others == 0 ? "." : "; others that look like sheets begin at line " + where + ". Copy the one that is meant.";
    return part;
}

} // namespace loom::loudspeaker::sheet
