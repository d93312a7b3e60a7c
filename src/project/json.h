// The project and its parts as JSON. docs/format.md and the schemas in docs/schema are made from the declarations
// (project/describe.h).
#pragma once
#include "engine/result.h"
#include "project/describe.h"
#include "project/model.h"
#include <nlohmann/json.hpp>

namespace loom::project {

inline constexpr int formatVersion = 2;
using schema::fromJson;
using schema::setShownField;
using schema::shownFields;
using schema::toJson;

// Any version up to formatVersion; older ones are brought up to date first. Never throws. The trouble's place is a JSON
// pointer such as /devices/0/program/threads/3.
Result<Project> projectFromJson(nlohmann::json json);

inline constexpr std::size_t maxJsonBytes = 64u << 20, maxJsonMemory = 6 * maxJsonBytes;
// Whether parseJson() would refuse a text for its size.
std::optional<Trouble> troubleWithSize(const std::string& text, const std::string& name);
// Parses text of at most maxJsonBytes, nested at most 64 deep, in time that grows with its length; what it would take
// in memory is estimated first and held below maxJsonMemory.
Result<nlohmann::json> parseJson(const std::string& text, const std::string& name);

} // namespace loom::project
