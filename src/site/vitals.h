// What a device tells of its health, read with care.
#pragma once
#include "project/health.h"
#include <nlohmann/json.hpp>

namespace loom::site {

project::Vitals vitalsFromJson(const nlohmann::json& json); // what is missing or wrong is as if well

} // namespace loom::site
