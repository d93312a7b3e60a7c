// Projects on disk: a .loom file (ZIP with project.json and assets/) or a plain folder of the same.
#pragma once
#include "engine/result.h"
#include "model/project.h"

namespace loom::project {

inline constexpr std::size_t maxProjectJson = 64u << 20;

// Opens a .loom file or a folder. Nothing of a damaged or hostile file is taken: names that leave assets/, links,
// entries that unpack to more than the limits, broken checksums are errors with the entry's name. So is what cannot
// be read. Its devices look their models up in `models`.
Result<Project> loadProject(const std::string& path, const ModelSource& models);
// Saves whole or not at all; what was there before stays as PATH.previous. A path ending in "/" or an existing folder
// is written as a folder: there only files that differ are written, and those that are no longer of the project go.
// Files of a folder outside assets/ are left as they are; those of an archive are kept in it, and laid into a folder
// where they are not hidden and nothing is there. A folder that was no project before keeps all that its assets/ has.
Result<Done> saveProject(const Project& project, const std::string& path);
Result<std::string> packProject(const Project& project); // the bytes of a .loom file
Result<Project> unpackProject(const std::string& bytes, const std::string& name, const ModelSource& models);

// A word for the content of a project, the same for the same content however its file is written (BLAKE2b of its JSON
// and files).
std::string contentStamp(const Project& project);
// A word for the state of a file or folder project on disk that changes when somebody writes it; "" if there is none.
// Cheap: sizes, times and file numbers only.
std::string diskStamp(const std::string& path);

} // namespace loom::project
