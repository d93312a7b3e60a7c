// A surface as a file of its own, to be used in other projects: its pages, the scenes that they recall, its pictures.
#pragma once
#include "model/describe.h"
#include "model/edit.h"

namespace loom::project {

inline constexpr int surfaceFileVersion = 1;
inline constexpr std::size_t largestSurfaceFile = 96u << 20; // bytes

struct SurfaceFile {
    std::string name, notes;
    Surface surface{}; // for no device
    List<Scene> scenes{};
    std::map<std::string, std::string> pictures{}; // base64, by name
    Extra extra{};
    bool operator==(const SurfaceFile&) const = default;
};

SurfaceFile surfaceFileOf(const Project& project, const Surface& surface);
std::string surfaceFileText(const SurfaceFile& file); // JSON
// Error: not a surface, of a later version, too large, a picture that is none; the place in the file is named.
Result<SurfaceFile> readSurfaceFile(const std::string& text, const std::string& name);
// As a new surface, for a touch surface of the plan ("": none yet) whose screen it then has. Names that are taken are
// renewed; scenes that are there already by name and values are those. What it is driven from stays as it says:
// findings tell what is not there. Error: that is no touch surface, or has one.
Result<Edit> addSurfaceFile(const Project& project, const SurfaceFile& file, const std::string& device);

} // namespace loom::project

namespace loom::schema {
LOOM_DESCRIBE(project::SurfaceFile)
} // namespace loom::schema
