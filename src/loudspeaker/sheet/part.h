// Which part of a long text is the sheet.
#pragma once
#include <cstddef>
#include <string>
#include <vector>

namespace loom::loudspeaker::sheet {

struct Part {
    std::size_t from = 0, to = 0; // lines; `to` is behind the last
    std::string note{};           // what of the text was read, if not all
};
// Of up to 400 lines all; of more the run of lines in which most values stand beside words for them.
Part partThatMatters(const std::vector<std::string>& lines);

} // namespace loom::loudspeaker::sheet
