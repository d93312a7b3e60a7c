// Lines of a sheet parted into cells: by signs, or by blanks where they are aligned; cells that were torn put together
// again.
#pragma once
#include "loudspeaker/sheet/item.h"
#include <algorithm>

namespace loom::loudspeaker::sheet {

struct Cell {
    Letters letters{};
    std::size_t start = 0; // letters from the beginning of the line
    Run items{};
};

struct Row {
    enum class Parted { none, blanks, sign } parted = Parted::none;
    std::size_t line = 0;
    std::vector<Cell> cells{}; // empty ones of sign-parted rows included
    bool merged = false;       // it went into another row
    bool empty() const {
        return std::all_of(cells.begin(), cells.end(), [](const Cell& c) { return c.letters.empty(); });
    }
    std::size_t indent() const { return cells.empty() ? 0 : cells.front().start; }
};

// One row a line. Those that went into the row above are marked as merged.
std::vector<Row> rowsOf(const std::vector<Letters>& lines);

Run joined(const Row& row); // all its items in order

} // namespace loom::loudspeaker::sheet
