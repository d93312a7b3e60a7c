// Plans: outlines of rooms in metres.
#pragma once
#include <array>
#include <optional>
#include <utility>
#include <vector>

namespace loom::acoustics {

using Spot = std::array<double, 2>; // x, y in metres
using Outline = std::vector<Spot>;  // corners in turn; the last joins the first

double areaOf(const Outline& outline); // m2, whichever way round; 0 for fewer than three corners
double perimeterOf(const Outline& outline);
Spot centreOf(const Outline& outline); // of its area; inside only if it is convex
bool contains(const Outline& outline, const Spot& spot);
struct Extent {
    Spot least{}, most{};
    double width() const { return most[0] - least[0]; }
    double depth() const { return most[1] - least[1]; }
};
Extent extentOf(const Outline& outline);
Outline rectangle(const Spot& corner, double width, double depth);
// The first two walls that cross or lie on one another, counted from 0; neighbours only where one folds back.
std::optional<std::pair<std::size_t, std::size_t>> crossingWalls(const Outline& outline);
// Distance of a spot from the line between two others.
double distanceTo(const Spot& spot, const Spot& from, const Spot& to);
// The part of a wall (0 at `a`, 1 at `b`) along which another line lies, within 0.15 m; nothing if it lies elsewhere.
std::optional<std::pair<double, double>> sharedPart(const Spot& a, const Spot& b, const Spot& from, const Spot& to);
// Two outlines that share a stretch of wall become one: what both enclose together, if the shared wall is straight and
// the outlines do not overlap. Nothing if they do not touch.
std::optional<Outline> joined(const Outline& a, const Outline& b);
// Spots on a grid of `step` metres that lie inside, row by row, at least `margin` from every wall.
std::vector<Spot> gridInside(const Outline& outline, double step, double margin = 0);

} // namespace loom::acoustics
