// A laid-out page by itself: for a room, with its microphones, far ends and zones; or for a processor.
#pragma once
#include "surface/surface_edit.h"

namespace loom::project {

struct Strip {                                    // of a page: a thing that is turned up, down and off
    std::string name, level{}, mute{}, reading{}; // paths; "" has none
    std::optional<double> low{}, high{};          // of the level, where its own range is not for everybody
};
// Of a space ("council", "tern+plover"): who is heard in it, and who is played in it. Those without anything to turn
// are left out.
std::vector<Strip> stripsOf(const Project& project, const std::string& space);
// Of a processor: its sources and destinations.
std::vector<Strip> stripsOfDevice(const Project& project, const std::string& device);

// Pages with a title and a strip for each, side by side in rows that fit the surface; fingers need 9 mm. They come
// behind those that are there; the first replaces an empty one.
Result<Edit> makePages(const Project& project, const std::string& surface, const std::string& title,
                       const std::vector<Strip>& strips);

} // namespace loom::project
