// What one stream takes of devices and cables, and what depends on it, in words and numbers.
#pragma once
#include "patch/delays.h"

namespace loom::project {

struct PatchFigure {
    std::string what, value;
    bool bad = false; // over a limit, or something falls silent
};
std::vector<PatchFigure> figuresOf(const Project& project, const Patched& patched, const Wired& wired,
                                   const Offer& offer);
// What goes over a cable, and what becomes of it without: one line a stream.
struct WireLine {
    std::size_t hearing = 0;
    bool there = true;                  // from the cable's first end to its second
    enum { same, moved, silent } cut{}; // if it is cut, with what is cut already
};
std::vector<WireLine> linesOver(const Project& project, const Patched& patched, const Wired& wired, const Cut& cut,
                                const std::string& wire);

} // namespace loom::project
