// Network addresses as people write them.
#pragma once
#include <array>
#include <optional>
#include <string>

namespace loom::project {

// "10.20.4.21": four numbers of 0 to 255 without leading zeros; nothing if it is not that.
std::optional<std::array<int, 4>> addressOf(const std::string& text);
inline bool isAddress(const std::string& text) {
    return addressOf(text).has_value();
}

} // namespace loom::project
