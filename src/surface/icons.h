// Our own icons, drawn with a few strokes so that the window and browsers draw the same.
#pragma once
#include "surface/sketch.h"

namespace loom::project {

struct IconName {
    const char *id, *label;
};
const std::vector<IconName>& iconNames();
// Strokes in a square box, of a width that suits it. Empty: there is no such icon.
std::vector<Mark> iconMarks(const std::string& id, double x, double y, double size, const Colour& ink);

} // namespace loom::project
