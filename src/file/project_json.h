// The project and its parts as JSON. docs/format.md and the schemas in docs/schema are made from the declarations

#pragma once
#include "engine/result.h"
#include "model/describe.h"
#include "model/project.h"
#include "schema/json_text.h"

namespace loom::project {

// Any version up to formatVersion; older ones are brought up to date first. Never throws. The error's place is a JSON
// pointer such as /devices/0/program/threads/3.
Result<Project> projectFromJson(nlohmann::json json, const ModelSource& models);

} // namespace loom::project
