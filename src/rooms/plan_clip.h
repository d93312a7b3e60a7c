// Things of a plan as text for the clipboard, to be put into the same or another project.
#pragma once
#include "rooms/plan_items.h"

namespace loom::project {

// Rooms with all that belongs to them, devices with their settings, seats, talkers and pieces; "" if nothing of that is
// chosen.
std::string clipOf(const Project& project, const std::vector<std::string>& keys);
// Puts a clip in: rooms beside the building, other things into `room` with their middle at a spot. Names, ids and
// addresses are new. `made`: their keys. Error: not a clip, of a later version, no room to put things into.
Result<Edit> pasteClip(const Project& project, const std::string& text, const ModelSource& models,
                       const std::string& room, const acoustics::Spot& at, std::vector<std::string>* made);

} // namespace loom::project
