// Colours as they are written, mixed and held against each other.
#pragma once
#include "engine/result.h"
#include <array>
#include <string>

namespace loom::project {

// sRGB with its opacity, 0 to 255 each.
struct Colour {
    int r = 0, g = 0, b = 0, a = 255;
    std::string text() const; // "#2A7F7A", "#2A7F7A80", "none" where nothing is to be seen
    bool operator==(const Colour&) const = default;
};

// "#2A7F7A", "#abc", "#2A7F7A80", "none", "rgb(42, 127, 122)", "rgba(42, 127, 122, 0.5)", "oklch(0.55 0.08 190)",
// "L 55 C 0.08 H 190". Error: no colour.
Result<Colour> readColour(const std::string& text);

// Lightness 0 to 1, chroma from 0, hue in degrees: B. Ottosson, "A perceptual color space for image processing", 2020
// (CSS Color Module Level 4, 9.3). What sRGB cannot show loses chroma until it can.
std::array<double, 3> oklchOf(const Colour& colour);
Colour fromOklch(double lightness, double chroma, double hue, int alpha = 255);

Colour over(const Colour& above, const Colour& below);        // as it is seen through
Colour mixed(const Colour& a, const Colour& b, double share); // 0: a, 1: b
// WCAG 2.1: (L1 + 0.05) / (L2 + 0.05) of the relative luminances, 1 to 21; both opaque.
double contrast(const Colour& a, const Colour& b);

} // namespace loom::project
