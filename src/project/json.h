// The project and its parts as JSON. docs/format.md and the schemas in docs/schema describe it.
#pragma once
#include "engine/result.h"
#include "project/model.h"
#include "project/tools.h"
#include <nlohmann/json.hpp>

namespace loom::project {

inline constexpr int formatVersion = 2;

nlohmann::json toJson(const engine::Program& program);
nlohmann::json toJson(const Project& project); // without the assets
nlohmann::json toJson(const Tool& tool);       // as the device protocol carries it

// Readers never throw. The trouble's place is a JSON pointer such as /devices/0/program/threads/3.
Result<engine::Program> programFromJson(const nlohmann::json& json, const std::string& place = "");
Result<Tool> toolFromJson(const nlohmann::json& json, const std::string& place = "");
// Any version up to formatVersion; older ones are brought up to date first.
Result<Project> projectFromJson(nlohmann::json json);

// Parses text of at most 64 MiB nested at most 64 deep.
Result<nlohmann::json> parseJson(const std::string& text, const std::string& name);

} // namespace loom::project
