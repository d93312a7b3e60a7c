// Measures of the weave at 100 % text scale, in pixels.
#pragma once

namespace loom::app::weave {

inline constexpr double labelWidth = 84, meterWidth = 40, beadWidth = 46, beadHeight = 22, beadGap = 8, headHeight = 44;

} // namespace loom::app::weave
