// Files that are whole or not there: written beside, synced, renamed.
#pragma once
#include "engine/result.h"
#include <string>
#include <vector>

namespace loom::project {

// Writes PATH.part, syncs it, keeps what was at PATH as PATH.previous if `keepPrevious`, renames, syncs the folder. A
// kill or power cut at any moment leaves the old or the new content at PATH, whole.
Result<Done> writeWhole(const std::string& path, const std::string& bytes, bool keepPrevious);

// Reads a file of at most `limit` bytes.
Result<std::string> readWhole(const std::string& path, std::size_t limit);

} // namespace loom::project
