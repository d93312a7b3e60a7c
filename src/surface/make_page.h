// A laid-out page by itself: for rooms, processors, microphone groups, single parameters, or several of them side by
// side.
#pragma once
#include "surface/surface_edit.h"

namespace loom::project {

struct Strip {                                    // of a page: a thing that is turned up, down and off
    std::string name, level{}, mute{}, reading{}; // paths; "" has none
    std::optional<double> low{}, high{};          // of the level, where its own range is not for everybody
    std::string other{};                          // a parameter that is none of these: it fills the strip
};
// Of one lane of a processor, by its source or destination. None: nothing of it can be turned.
std::optional<Strip> stripOf(const Device& device, const engine::Block& end);
// As controls in a box; `mute`, `meter`: how high and wide these are.
std::vector<NewControl> stripControls(const Project& project, const Strip& strip, double x, double y, double width,
                                      double height, double mute, double meter);

// What pages can be made for.
struct PageSource {
    std::string said;  // as pageSource() takes it
    std::string title; // "Council Hall", "Heddle 16", "Heddle 16 \u00b7 Delegates"
    std::vector<Strip> strips{};
};
// Spaces in which somebody talks, processors, microphone groups, and all processors of a model: without strips.
std::vector<PageSource> pageSources(const Project& project);
// A space ("council", "tern+plover"): who is heard in it, and who is played in it. A processor ("heddle"): its sources
// and destinations; those of a model ("model:heddle-16") side by side. A group ("heddle/auto"): its microphones.
// A lane by its end ("heddle/chair"), a bead ("heddle/chair.eq"): its fields. Parameters ("heddle/chair.level.gain"):
// one strip for each block. Several: one after another; where they are of
// several processors, each strip says which. Error: there is no such, or nothing of it can be turned.
Result<PageSource> pageSource(const Project& project, const std::vector<std::string>& said);

// Pages with a title and a strip for each, side by side in rows that fit the surface; fingers need 9 mm. They come
// behind those that are there; the first replaces an empty one.
Result<Edit> makePages(const Project& project, const std::string& surface, const std::string& title,
                       const std::vector<Strip>& strips);

} // namespace loom::project
