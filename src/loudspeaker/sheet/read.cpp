#include "loudspeaker/sheet/layout.h"
#include "loudspeaker/sheet/letters.h"
#include "loudspeaker/sheet/part.h"
#include "loudspeaker/sheet/patterns.h"
#include <algorithm>

namespace loom::loudspeaker {

Sheet readSheet(const std::string& text, const std::vector<SheetPattern>& patterns) {
    Sheet lines;
    std::size_t at = 0;
    while (at < text.size() && at < maxSheetBytes && lines.lines.size() < maxSheetLines) {
        const std::size_t end = std::min(text.find_first_of("\n\f", at), text.size()); // a form feed ends a page
        lines.lines.push_back(text.substr(at, std::min<std::size_t>(end - at, 1000)));
        at = end + 1;
    }
    const bool cut = at < text.size();
    const auto part = sheet::partThatMatters(lines.lines);
    const auto read = [&](const sheet::Lexicon& lexicon) {
        Sheet s = lines;
        sheet::readLayout(s, lexicon, part.from, part.to);
        if (!part.note.empty())
            s.notes.insert(s.notes.begin(), part.note);
        return s;
    };
    Sheet best = read(sheet::Lexicon::standard());
    if (const auto* pattern = sheet::fitting(patterns, best)) {
        sheet::Lexicon lexicon = sheet::Lexicon::standard();
        sheet::teach(lexicon, *pattern);
        best = read(lexicon);
        best.pattern = pattern->name;
        sheet::answerAs(best, *pattern);
    }
    if (cut)
        best.lines.push_back("(the rest of the text is too long and was not read)");
    return best;
}

} // namespace loom::loudspeaker
