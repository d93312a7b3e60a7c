// Sizes of who hears whom at a text scale of 100 %.
#pragma once

namespace loom::app {

inline constexpr double hearRow = 24, hearHead = 24, hearGap = 8, hearSlot = 14, hearStep = 17, hearFoot = 18,
                        hearTop = 26;
inline constexpr int hearAcross = 16;

} // namespace loom::app
