// Texts as others wrote them, as UTF-8 with "\n" at the end of lines.
#pragma once
#include <string>
#include <string_view>

namespace loom {

// UTF-8, UTF-16 of either order (by its mark, or by every other byte being 0), else Windows-1252. Marks of order are
// left out; "\r\n", "\r" and U+2028 end lines. Any bytes give a text; at most three bytes for each.
std::string utf8Of(std::string_view bytes);
void putUtf8(std::string& to, char32_t code);

} // namespace loom
