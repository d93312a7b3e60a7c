// What the columns of a file of numbers are, by the words of their heads, in six languages.
#pragma once
#include <string>
#include <string_view>
#include <vector>

namespace loom::loudspeaker::curve {

enum class Role { unknown, frequency, level, phase, real, imaginary, coherence, time, index, other };
enum class In { unsaid, hz, khz, db, linear, degrees, radians, ohm, kilohm, seconds, ms };

struct Column {
    Role role = Role::unknown;
    In in = In::unsaid;
    std::string head{};
};

struct Word {
    std::string_view text;
    Role role;
    In in;
};
std::vector<std::string> wordsOf(const std::string& folded); // letters only; a degree or ohm sign is one by itself
const Word* known(const std::string& word);                  // null: it says nothing of a column
// What a head, folded (sheet/letters), says of its column. Units alone say the role as well.
Column columnOf(const std::string& head);

} // namespace loom::loudspeaker::curve
