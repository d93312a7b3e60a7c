// Device lists, address plans and lists of seats of spreadsheets: columns are known by their heads, rows by name, and
// what they would change is listed before it is done.
#pragma once
#include "rooms/room_edit.h"

namespace loom::project {

inline constexpr std::size_t maxTableBytes = 4u << 20, maxTableRows = 20000;

// A table from the clipboard or a CSV file (tabs, semicolons or commas part its cells; quotes hold them together; any
// encoding that utf8Of knows) as new devices, and as changes of those that have the name or id of a row. Heads are
// known in six languages: name, model, room, address, x, y, z (in m, or as they say: mm, cm, ft), use, asset, notes.
// A table with a column of seats a row is one of seats: room, seats, rows, seat to seat, row to row, x, y, turn; each
// of its rows becomes a block of seats, in the middle of its room if it says no place.
// What is not taken is in the list as well, with the reason. Error: no table, no head for a name, too large.
Result<Renewed> devicesOfTable(const Project& project, const Catalogue& models, const std::string& text);

} // namespace loom::project
