// Plain letters of texts that people type. ASCII only: other letters stay as they are, in any locale.
#pragma once
#include <string>
#include <string_view>

namespace loom {

inline std::string lower(std::string s) {
    for (char& c : s)
        if (c >= 'A' && c <= 'Z')
            c = static_cast<char>(c - 'A' + 'a');
    return s;
}

// Without blanks and tabs at its ends.
inline std::string trimmed(std::string_view s) {
    const auto from = s.find_first_not_of(" \t"), to = s.find_last_not_of(" \t");
    return from == s.npos ? std::string() : std::string(s.substr(from, to - from + 1));
}

} // namespace loom
