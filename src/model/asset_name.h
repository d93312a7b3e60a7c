// Names of files inside a project: one check for loading, editing and saving.
#pragma once
#include "engine/result.h"
#include "model/project.h"
#include <algorithm>
#include <string>

namespace loom::project {

// A path below assets/ that every file system and archive can hold: parts of 1 to 255 bytes, 1,024 in all, in UTF-8,
// parted by "/", none of them "." or ".."; no "\\", no control characters.
bool isAssetName(const std::string& name);
// The nearest name that is one: what is not allowed becomes "-", a long name loses letters before its ending.
std::string assetNameFrom(const std::string& wanted);
// That name, or another where a file of it with other bytes is there: "tone.wav", "tone-2.wav".
std::string freeAssetName(const Assets& assets, const std::string& wanted, const Asset& bytes);

inline constexpr std::size_t maxAssets = 512u << 20, maxFiles = 4095; // bytes and number in one project
// Whether a project can hold these files: names, their number, their size altogether.
std::optional<Error> errorInFiles(const Project& project);

} // namespace loom::project
