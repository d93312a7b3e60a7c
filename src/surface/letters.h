// How a text is set in its box, as the window (surface_painter.cpp) and browsers (draw.js) do it, reckoned without
// either: what fits is known before anybody draws it.
#pragma once
#include "surface/sketch.h"

namespace loom::project {

// In pixels, from the advance widths of the shipped fonts; kerning may draw it up to 6 % narrower. Letters that
// the fonts have not count as wide as their size is.
double textWidth(const std::string& text, double size, bool bold, bool figures);

struct SetText {
    std::vector<std::string> lines{}; // as they are drawn, cut at their end where they do not fit
    double size = 0;                  // of the letters: smaller than the mark's where a word is wider than the box
    double high = 0, ascent = 0;      // of a line
    bool cut = false;                 // a line is, or there are more lines than the box is high
};
// Of a text mark with its value in it, in a box of that size.
SetText setText(const Mark& mark, const std::string& text, double width, double height);

} // namespace loom::project
