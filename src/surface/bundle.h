// Things of the design that come onto a page as several controls at once: a lane as its strip, a microphone group as
// the strips of its microphones, a bead as all its fields.
//
//   strip:heddle/chair      the lane of a source or destination
//   group:heddle/auto       a group
//   bead:heddle/chair-eq    every parameter of a block
#pragma once
#include "surface/surface_edit.h"

namespace loom::project {

struct Bundle {
    std::string path, label, detail; // "Chair", "strip: level, meter, mute"
};
bool isBundle(const std::string& path);
// Those whose names have all words that are typed: strips, groups, then beads; at most so many. Without words no beads.
std::vector<Bundle> findBundles(const Project& project, const std::string& words, std::size_t most);
// Bundles, and parameters as what suits them, beside each other and in lines as wide as the page; controls of a bundle
// are a group. The left upper corner of them all is at (x, y) or as near as they fit.
Result<Edit> putOnPage(const Project& project, const PagePlace& place, const std::vector<std::string>& paths, double x,
                       double y, const std::string& ply = "");

} // namespace loom::project
