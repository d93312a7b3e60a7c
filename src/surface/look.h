// How a control looks once all that it takes over from its page and surface is known.
#pragma once
#include "model/colour.h"
#include "model/project.h"

namespace loom::project {

// A surface's own: dark, so that a room at night is not lit by it.
inline constexpr const char* surfaceFill = "#25323A";
inline constexpr const char* surfaceInk = "#F3EEE4";
inline constexpr const char* surfaceAccent = "#DB9A2C";
// Those of threads, the same whatever the window's own theme is.
inline constexpr const char* threadColours[] = {"#A63D40", "#C48A1E", "#64803A", "#2A7F7A",
                                                "#2F5F85", "#75466F", "#BF6079", "#7A5A40"};

struct Paint {
    Colour page{};     // what lies behind everything
    Colour fill{};     // of the control; where it says none, a shade of the page towards its ink
    Colour edge{};     // likewise, nothing at first
    Colour ink{};      // on the page and on what is off
    Colour accent{};   // of what is on
    Colour onAccent{}; // ink that is read best on it
    double corner = 10, edgeWidth = 1, textSize = 16;
};
// Of a page alone: fill is that of its controls.
Paint paintOf(const Surface& surface, const SurfacePage& page);
Paint paintOf(const Surface& surface, const SurfacePage& page, const Control& control);
// What a drawer is filled with.
Colour drawerFill(const Surface& surface, const SurfacePage& page, const Ply& ply);

} // namespace loom::project
