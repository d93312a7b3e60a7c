// What a field leaves open, put so that one answer settles all of it.
#pragma once
#include "loudspeaker/sheet.h"

namespace loom::loudspeaker::sheet {

// Each answer to what is asked already with each of these: `take` puts into the first what the second says.
void alsoAsk(SheetField& f, const std::string& question, const std::vector<SheetChoice>& more,
             void (*take)(SheetChoice&, const SheetChoice&));
void takeKind(SheetChoice& c, const SheetChoice& from);
void takeQ(SheetChoice& c, const SheetChoice& from);
void takeSlope(SheetChoice& c, const SheetChoice& from);

} // namespace loom::loudspeaker::sheet
