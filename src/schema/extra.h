// What a type keeps of fields that nobody declared.
#pragma once
#include <map>
#include <string>

namespace loom::schema {

using Extra = std::map<std::string, std::string>; // by key, as JSON text; they survive a round trip

} // namespace loom::schema
