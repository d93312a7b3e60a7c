// How a sheet is laid out: its lines parted into cells, tables found by their heads, cells that were torn put together
// again; and all of it handed to Facts with what columns, rows and sections say.
#pragma once
#include "loudspeaker/sheet/facts.h"

namespace loom::loudspeaker::sheet {

// Reads all lines into `sheet`, whose lines are there already.
void readLayout(Sheet& sheet, const Lexicon& lexicon);

} // namespace loom::loudspeaker::sheet
