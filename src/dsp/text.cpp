#include "dsp/text.h"
#include <algorithm>
#include <array>
#include <cstdint>

namespace loom {
namespace {

bool isUtf8(std::string_view s) {
    for (std::size_t i = 0; i < s.size();) {
        const auto c = static_cast<unsigned char>(s[i]);
        const std::size_t more = c < 0x80                ? 0
                                 : c >= 0xc2 && c < 0xe0 ? 1
                                 : c >= 0xe0 && c < 0xf0 ? 2
                                 : c >= 0xf0 && c < 0xf5 ? 3
                                                         : 9;
        if (more == 9 || i + more >= s.size() + (more == 0))
            return false;
        for (std::size_t k = 1; k <= more; ++k)
            if ((static_cast<unsigned char>(s[i + k]) & 0xc0) != 0x80)
                return false;
        i += more + 1;
    }
    return true;
}

std::string fromUtf16(std::string_view s, bool big) {
    std::string out;
    out.reserve(s.size());
    const auto unit = [&](std::size_t i) -> char32_t {
        const auto a = static_cast<unsigned char>(s[i]), b = static_cast<unsigned char>(s[i + 1]);
        return static_cast<char32_t>(big ? a << 8 | b : b << 8 | a);
    };
    for (std::size_t i = 0; i + 1 < s.size(); i += 2) {
        char32_t c = unit(i);
        if (c >= 0xd800 && c < 0xdc00 && i + 3 < s.size() && unit(i + 2) >= 0xdc00 && unit(i + 2) < 0xe000) {
            c = 0x10000 + ((c - 0xd800) << 10) + (unit(i + 2) - 0xdc00);
            i += 2;
        } else if (c >= 0xd800 && c < 0xe000) {
            c = 0xfffd; // half of a pair
        }
        putUtf8(out, c);
    }
    return out;
}

// Windows-1252, which Latin-1 is part of but for its control codes. Source: Unicode's mapping table CP1252.TXT.
std::string fromWindows(std::string_view s) {
    static constexpr std::array<char16_t, 32> upper{0x20ac, 0xfffd, 0x201a, 0x0192, 0x201e, 0x2026, 0x2020, 0x2021,
                                                    0x02c6, 0x2030, 0x0160, 0x2039, 0x0152, 0xfffd, 0x017d, 0xfffd,
                                                    0xfffd, 0x2018, 0x2019, 0x201c, 0x201d, 0x2022, 0x2013, 0x2014,
                                                    0x02dc, 0x2122, 0x0161, 0x203a, 0x0153, 0xfffd, 0x017e, 0x0178};
    std::string out;
    out.reserve(s.size());
    for (const char c : s) {
        const auto b = static_cast<unsigned char>(c);
        putUtf8(out, b >= 0x80 && b < 0xa0 ? upper[b - 0x80U] : b);
    }
    return out;
}

std::string withPlainLineEnds(const std::string& s) {
    std::string out;
    out.reserve(s.size());
    for (std::size_t i = 0; i < s.size(); ++i) {
        if (s[i] == '\r') {
            out += '\n';
            i += i + 1 < s.size() && s[i + 1] == '\n';
        } else if (s.compare(i, 3, "\u2028") == 0) {
            out += '\n';
            i += 2;
        } else {
            out += s[i];
        }
    }
    return out;
}

} // namespace

void putUtf8(std::string& out, char32_t c) {
    if (c < 0x80) {
        out += static_cast<char>(c);
    } else if (c < 0x800) {
        out += static_cast<char>(0xc0 | c >> 6);
        out += static_cast<char>(0x80 | (c & 0x3f));
    } else if (c < 0x10000) {
        out += static_cast<char>(0xe0 | c >> 12);
        out += static_cast<char>(0x80 | (c >> 6 & 0x3f));
        out += static_cast<char>(0x80 | (c & 0x3f));
    } else {
        out += static_cast<char>(0xf0 | c >> 18);
        out += static_cast<char>(0x80 | (c >> 12 & 0x3f));
        out += static_cast<char>(0x80 | (c >> 6 & 0x3f));
        out += static_cast<char>(0x80 | (c & 0x3f));
    }
}

std::string utf8Of(std::string_view bytes) {
    const auto begins = [&](std::string_view mark) { return bytes.substr(0, mark.size()) == mark; };
    if (begins("\xff\xfe"))
        return withPlainLineEnds(fromUtf16(bytes.substr(2), false));
    if (begins("\xfe\xff"))
        return withPlainLineEnds(fromUtf16(bytes.substr(2), true));
    if (begins("\xef\xbb\xbf"))
        bytes.remove_prefix(3);
    std::array<std::size_t, 2> zeros{};
    const std::size_t looked = std::min<std::size_t>(bytes.size(), 4096);
    for (std::size_t i = 0; i < looked; ++i)
        zeros[i % 2] += bytes[i] == '\0';
    for (const std::size_t k : {std::size_t(0), std::size_t(1)})
        if (looked >= 4 && zeros[k] * 10 >= looked * 4 && zeros[1 - k] * 10 < looked)
            return withPlainLineEnds(fromUtf16(bytes, k == 0));
    return withPlainLineEnds(isUtf8(bytes) ? std::string(bytes) : fromWindows(bytes));
}

} // namespace loom
