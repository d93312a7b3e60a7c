// How makers write their sheets, in the user's library: a JSON file a maker, which may be given to others.
#pragma once
#include "engine/result.h"
#include "loudspeaker/sheet.h"

namespace loom::project {

// $XDG_DATA_HOME/nimble-loom/sheets
std::string sheetPatternFolder();
std::vector<loudspeaker::SheetPattern> sheetPatterns(std::vector<Error>* errors = nullptr);
std::string patternText(const loudspeaker::SheetPattern& pattern);
// Error: no JSON, no pattern, a meaning that there is none of, more than 1 MiB; with the place.
Result<loudspeaker::SheetPattern> readPattern(const std::string& text, const std::string& name);
// Into the library; what was kept of the same name is added to.
Result<std::string> keepPattern(loudspeaker::SheetPattern pattern);

} // namespace loom::project
