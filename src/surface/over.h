// What lies over a page: the choices of a list, keys for a number, and words.
#pragma once
#include "surface/control_kind.h"

namespace loom::project {

inline const std::vector<std::string>& numberKeys() { // by part
    static const std::vector<std::string> keys{"1", "2", "3", "4", "5",    "6",      "7",    "8",
                                               "9", "-", "0", ".", "back", "escape", "enter"};
    return keys;
}

// Both in pixels of the page, beside their control and within the page. Parts: the choices, or numberKeys().
Sketch choicesOver(const Surface& surface, const Paint& paint, const Control& control,
                   const std::vector<std::string>& choices);
// {value} is what was typed; the range stands below it.
Sketch numberOver(const Surface& surface, const Paint& paint, const Control& control, const std::string& range);

// Along the top of the page.
Sketch wordsOver(const Surface& surface, const Paint& paint, const std::string& said);

} // namespace loom::project
