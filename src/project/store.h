// Projects on disk: a .loom file (ZIP with project.json and assets/) or a plain folder of the same.
#pragma once
#include "engine/result.h"
#include "project/model.h"

namespace loom::project {

inline constexpr std::size_t maxProjectJson = 64u << 20, maxAssets = 512u << 20;

// Opens a .loom file or a folder. Nothing of a damaged or hostile file is taken: names that leave assets/, entries
// that unpack to more than the limits, broken checksums are troubles with the entry's name.
Result<Project> loadProject(const std::string& path);
// Saves whole or not at all; what was there before stays as PATH.previous. A path ending in "/" or an existing folder
// is written as a folder.
Result<Done> saveProject(const Project& project, const std::string& path);
Result<std::string> packProject(const Project& project); // the bytes of a .loom file
Result<Project> unpackProject(const std::string& bytes, const std::string& name);

// The autosave journal beside a project file. It holds a whole project.json and the size and time of the file it
// belongs to, so that an old journal is never taken for newer work.
std::string journalPath(const std::string& projectPath);
Result<Done> writeJournal(const Project& project, const std::string& projectPath);
// The unsaved work found beside a project file, if there is any and it is whole. `saved` supplies the assets.
std::optional<Project> recoverJournal(const Project& saved, const std::string& projectPath);
void dropJournal(const std::string& projectPath);

} // namespace loom::project
