// The letters of a sheet as plain ones, each with the place that it came from, so that pieces of lines can be put
// together and what is read of them still be shown where it stands.
#pragma once
#include <cstddef>
#include <string>
#include <string_view>
#include <vector>

namespace loom::loudspeaker::sheet {

struct Letter {
    char c = 0;                             // lower case ASCII; signs below; '?': another letter
    std::size_t line = 0, from = 0, to = 0; // bytes of that line
    bool narrow = false;                    // a blank that holds digits together
};
using Letters = std::vector<Letter>;

inline constexpr char ohmSign = '\1', degreeSign = '\2', rangeDash = '~'; // an en or em dash, which may be a minus

// Typographic signs become plain ones, accents go, ligatures are two letters. Marks of direction and width are left
// out.
Letters lettersOf(std::string_view text, std::size_t line);
// Lower case, no accents, in ASCII as far as it goes ("\u00df" is "ss"); what has no such letter becomes '?'.
std::string folded(std::string_view utf8);
Letters blanks(const Letters& like, std::size_t count); // at the place where `like` ends

} // namespace loom::loudspeaker::sheet
