// Bytes of any number as text (RFC 4648, 4), and back.
#pragma once
#include "engine/result.h"
#include <span>
#include <string>
#include <vector>

namespace loom::project {

std::string base64Of(std::span<const char> bytes);
Result<std::vector<char>> bytesOfBase64(const std::string& text);

} // namespace loom::project
