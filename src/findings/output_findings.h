// What Speakers sees by itself: outputs without a load, too low impedances, taps and power beyond what can be borne.
#pragma once
#include "findings/finding.h"
#include "voicings/output_figures.h"

namespace loom::project {

std::vector<Finding> checkSpeakers(const Project& project);
// Those that need the levels of rooms: outputs that are too weak for their targets.
std::vector<Finding> checkHeadroom(const Project& project, const RoomDrives& drives);

} // namespace loom::project
