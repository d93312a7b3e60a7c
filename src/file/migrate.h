// Brings older project files up to date, one step a version.
#pragma once
#include <nlohmann/json.hpp>

namespace loom::project {

// Version 1 had its rooms at the top, without buildings. Throws nlohmann::json::exception if the old file is not
// what its version says.
nlohmann::json migrateFrom1(nlohmann::json old);
// Version 2 led sound over the network as it led cables, "net 3" from "array/net 1". Now it is a stream of the device
// that sends, of up to eight channels, and a receiver of the one that hears.
nlohmann::json migrateFrom2(nlohmann::json old);

} // namespace loom::project
