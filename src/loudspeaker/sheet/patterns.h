// What was said of a maker's sheets, applied to the next one.
#pragma once
#include "loudspeaker/sheet.h"
#include "loudspeaker/sheet/lexicon.h"

namespace loom::loudspeaker::sheet {

// Of the same maker, or with three labels in five alike; null: none.
const SheetPattern* fitting(const std::vector<SheetPattern>& patterns, const Sheet& plain);
void teach(Lexicon& lexicon, const SheetPattern& pattern);
void answerAs(Sheet& sheet, const SheetPattern& pattern);

} // namespace loom::loudspeaker::sheet
