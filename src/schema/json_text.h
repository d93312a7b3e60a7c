// JSON from a text that anybody may have written: bounded in size, depth and memory.
#pragma once
#include "engine/result.h"
#include <nlohmann/json.hpp>

namespace loom::schema {

inline constexpr std::size_t maxJsonBytes = 64u << 20, maxJsonMemory = 6 * maxJsonBytes;
// Whether parseJson() would refuse a text for its size.
std::optional<Error> errorInSize(const std::string& text, const std::string& name);
// Parses text of at most maxJsonBytes, nested at most 64 deep, in time that grows with its length; what it would take
// in memory is estimated first and held below maxJsonMemory. Error: what is wrong, at which byte; the place is
// `name`.
Result<nlohmann::json> parseJson(const std::string& text, const std::string& name);

} // namespace loom::schema
