// A surface with all that it needs away from the design: what a device holds of it and shows. It names no parameter
// that none of its controls points to.
#pragma once
#include "program/file_prints.h"

namespace loom::project {

// The surfaces that a device shows: those that are for it; a processor's also those that drive something of it.
std::vector<const Surface*> surfacesOn(const Project& project, const Device& device);

// As JSON text: the surface without what is for editing alone, of each device that it drives the blocks that it points
// to with their names, the scenes that it recalls, and its pictures by name and print.
std::string packSurface(const Project& project, const Surface& surface, const std::string& device);

struct PackedSurface {
    Project project{};                             // with this surface alone
    std::string surface;                           // its id
    std::string as;                                // the id that whoever holds it has in the design
    std::map<std::string, std::string> pictures{}; // print by the file's name
    std::map<std::string, std::string> tells{};    // signals that are no parameters: by path whose; "": nobody
};
Result<PackedSurface> unpackSurface(const std::string& text, const ModelSource& models);
// Of a packed surface what counts for whether two are the same: "#" and 16 digits. A text that is such a print already
// is its own.
std::string packPrint(const std::string& text);
// Of a picture's bytes.
std::string picturePrint(const std::vector<char>& bytes);
// The surface of a pack put into a project, in the place of the one of its id: guides, what is hidden or locked here
// stay as they are there. Error: it cannot be read.
Result<Done> adoptSurface(Project& project, const std::string& id, const std::string& text);
// Every path that a surface reads, and what its controls may set of it: lanes, scenes and responses by their parts;
// commands of outside devices are set.
struct PathUse {
    bool sets = false;
    double low = 0, high = 0; // of all controls that set it together
};
std::map<std::string, PathUse> pathsUsed(const Project& project, const Surface& surface);
// Files of the project that a control, or a surface, shows; each once.
std::vector<std::string> picturesOf(const Control& control);
std::vector<std::string> picturesOf(const Surface& surface);

inline constexpr std::size_t longestPack = 2u << 20;    // bytes
inline constexpr std::size_t largestPicture = 2u << 20; // bytes of a file that a device takes

} // namespace loom::project
