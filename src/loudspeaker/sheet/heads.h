// What heads of columns and labels of rows say, and what cells are like.
#pragma once
#include "loudspeaker/sheet/keys.h"
#include "loudspeaker/sheet/rows.h"

namespace loom::loudspeaker::sheet {

// What a column is about, by its head.
struct Head {
    std::optional<Means> key{};
    std::optional<Means> role{}; // number, type, frequency, width, slope, state, way; of filters also level
    Unit unit = Unit::none;
    bool less = false; // a level is how much is taken away
    bool widthIsQ = false;
    std::string index{};  // "EQ2 gain": 2
    std::size_t from = 0; // byte of the line in which it begins
    std::size_t start = 0;
};

bool signOnly(const Run& run); // nothing but signs, or nothing
bool hasNumbers(const Run& run);
bool hasUnits(const Run& run); // a number with a unit
bool sentence(const Run& run); // words between the words that say something
// A cell that names a way and nothing else but what is in brackets: "LF (2 x 12)".
std::optional<WayRef> wayCell(const Run& run);
// A head: words for what a column holds, with its unit; nothing else.
std::optional<Head> headCell(const Run& run);
// What a row is about, by its first cell; `unit` is given what it says of bare numbers. What was understood is used.
std::optional<Means> labelOf(Run& run, Unit& unit);
void give(Run& run, Unit unit); // bare numbers of a cell whose head or label has the unit
void use(Run& run);             // all of it was understood
void use(std::vector<Cell>& cells);

} // namespace loom::loudspeaker::sheet
