#include "model/address.h"
#include <charconv>

namespace loom::project {

std::optional<std::array<int, 4>> addressOf(const std::string& text) {
    std::array<int, 4> n{};
    const char *at = text.data(), *end = at + text.size();
    for (std::size_t i = 0; i < n.size(); ++i) {
        if (i > 0 && (at == end || *at++ != '.'))
            return {};
        const auto [next, bad] = std::from_chars(at, end, n[i]);
        if (bad != std::errc() || n[i] < 0 || n[i] > 255 || next - at > 3 || *at == '-')
            return {};
        if (*at == '0' && next - at > 1) // others read "020" as octal
            return {};
        at = next;
    }
    return at == end ? std::optional(n) : std::nullopt;
}

} // namespace loom::project
