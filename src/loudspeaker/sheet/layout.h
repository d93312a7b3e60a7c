// How a sheet is laid out: its lines parted into cells, tables found by their heads, cells that were torn put together
// again; and all of it handed to Facts with what columns, rows and sections say.
#pragma once
#include "loudspeaker/sheet/facts.h"

namespace loom::loudspeaker::sheet {

// Reads lines of `sheet`, from one to before another; they are there already.
void readLayout(Sheet& sheet, const Lexicon& lexicon, std::size_t from, std::size_t to);

} // namespace loom::loudspeaker::sheet
