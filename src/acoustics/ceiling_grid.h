// Loudspeakers in a ceiling: how far apart.
#pragma once
#include "acoustics/polygon.h"

namespace loom::acoustics {

// Diameter in metres of what a loudspeaker covers at ear height, 2 (h - e) tan(angle / 2): height of its mouth and of
// the ears in m, coverage angle in degrees, below 180.
double coverageAtEars(double height, double earHeight, double coverageDeg);

// Spacing of a square grid: circles that touch (overlap 0), that meet in the middle of the square (0.293 = 1 - 1/sqrt
// 2), or whose edges reach the next centre (0.5): diameter (1 - overlap).
double gridSpacing(double diameter, double overlap);

// Places of about `count` loudspeakers in rows and columns over the outline's extent, evenly, half a spacing from the
// walls; rows and columns are chosen so that the spacing is as equal as can be. Only places inside are given.
std::vector<Spot> gridOf(const Outline& outline, int count);
// As many as are needed for a spacing of at most `spacing` metres.
std::vector<Spot> gridBySpacing(const Outline& outline, double spacing);

} // namespace loom::acoustics
