#include "file/migrate.h"

namespace loom::project {

nlohmann::json migrateFrom1(nlohmann::json old) {
    nlohmann::json building = {{"id", "building"}, {"name", old.value("name", "Building")}};
    building["rooms"] = old.contains("rooms") ? old.at("rooms") : nlohmann::json::array();
    old.erase("rooms");
    old["buildings"] = nlohmann::json::array({building});
    old["version"] = 2;
    return old;
}

} // namespace loom::project
