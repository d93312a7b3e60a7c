// The words of a line of a sheet: numbers with their units, words, signs; each with its place.
#pragma once
#include <string>
#include <vector>

namespace loom::loudspeaker {

struct SheetWord {
    enum class Is { number, word, sign } is = Is::word;
    std::string text; // lower case, ASCII: "-" for all dashes, "x" for a times sign, "ohm", "deg"
    double value = 0; // of numbers, a "k" behind it counted in
    bool kilo = false, comma = false;
    std::size_t from = 0, to = 0; // bytes of the line
    int cell = 0;                 // of a table's row, from 0
};
// Cells are parted by "|", tabs, or two blanks and more.
std::vector<SheetWord> wordsOf(const std::string& line);

} // namespace loom::loudspeaker
