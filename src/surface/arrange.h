// Putting controls in order, by the one that leads: the first of the list.
#pragma once
#include "surface/surface_edit.h"

namespace loom::project {

enum class Arrange {
    left,
    right,
    top,
    bottom, // edges in line with the leading one's
    centreAcross,
    centreDown, // middles in line with its middle
    sameWidth,
    sameHeight,
    sameSize,
    gapAcross,
    gapDown, // gaps alike between the outermost two; from three controls on
    stackAcross,
    stackDown, // one beside or below the other from the leading one on, `gap` apart
};
struct ArrangeKind {
    Arrange how;
    const char *id, *label;
    std::size_t least; // controls that it takes
};
const std::vector<ArrangeKind>& arrangeKinds();
inline constexpr double usualGap = 12;
Result<Edit> arrange(const Project& project, const PagePlace& place, const std::vector<std::string>& ids, Arrange how,
                     double gap = usualGap);

// Where something that is dragged is drawn to: edges and middles of the page, guides, edges and middles of controls
// that are not dragged, within `reach` pixels.
struct Snap {
    double dx = 0, dy = 0;                  // to be added
    std::optional<double> across{}, down{}; // the lines that drew it
};
Snap snapTo(const Surface& surface, const SurfacePage& page, const std::vector<std::string>& dragged, double x,
            double y, double width, double height, double reach);

} // namespace loom::project
