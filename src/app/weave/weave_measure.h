// Measures of the weave at 100 % text scale, in pixels.
#pragma once

namespace loom::app::weave {

inline constexpr double labelWidth = 84, meterWidth = 40, beadWidth = 46, beadHeight = 22, beadGap = 8, headHeight = 44;
// On a wide page: how far beads and meters grow before the rest goes between the columns.
inline constexpr double widestBead = 72, longestMeter = 120;

} // namespace loom::app::weave
