// What a field leaves open, put so that one answer settles all of it.
#pragma once
#include "loudspeaker/sheet.h"

namespace loom::loudspeaker::sheet {

// Each answer to what is asked already with each of these. Questions of one topic with as many choices are alike.
void alsoAsk(SheetField& f, const std::string& topic, const std::string& question,
             const std::vector<SheetChoice>& more);

} // namespace loom::loudspeaker::sheet
