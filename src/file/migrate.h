// Brings older project files up to date, one step a version.
#pragma once
#include <nlohmann/json.hpp>

namespace loom::project {

// Version 1 had its rooms at the top, without buildings. Throws nlohmann::json::exception if the old file is not
// what its version says.
nlohmann::json migrateFrom1(nlohmann::json old);

} // namespace loom::project
