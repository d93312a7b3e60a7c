#include "loudspeaker/sheet/letters.h"
#include <algorithm>
#include <array>

namespace loom::loudspeaker::sheet {
namespace {

// The code point that begins at i, and how many bytes it takes; a byte that begins none is one of its own.
std::pair<char32_t, std::size_t> codeAt(std::string_view s, std::size_t i) {
    const auto byte = [&](std::size_t k) { return static_cast<unsigned char>(s[k]); };
    const unsigned char first = byte(i);
    const std::size_t length = first < 0x80   ? 1
                               : first < 0xc0 ? 0
                               : first < 0xe0 ? 2
                               : first < 0xf0 ? 3
                               : first < 0xf8 ? 4
                                              : 0;
    if (length == 0 || i + length > s.size())
        return {0xfffd, 1};
    char32_t code = length == 1 ? first : first & (0x7f >> length);
    for (std::size_t k = 1; k < length; ++k) {
        if ((byte(i + k) & 0xc0) != 0x80)
            return {0xfffd, 1};
        code = code << 6 | (byte(i + k) & 0x3f);
    }
    return {code, length};
}

// What letters of Latin scripts and typographic signs are in ASCII; "": nothing is left of it; "?": another letter.
std::string_view plainOf(char32_t c) {
    struct Range {
        char32_t from, to;
        std::string_view as;
    };
    static constexpr std::array<Range, 58> all{
        {{0xa0, 0xa0, " "},      {0xb0, 0xb0, "\2"},     {0xb1, 0xb1, "+"},      {0xb2, 0xb2, "2"},
         {0xb3, 0xb3, "3"},      {0xb4, 0xb4, "'"},      {0xb5, 0xb5, "u"},      {0xb7, 0xb7, "."},
         {0xb9, 0xb9, "1"},      {0xba, 0xba, "\2"},     {0xbc, 0xbc, " 1/4"},   {0xbd, 0xbd, " 1/2"},
         {0xbe, 0xbe, " 3/4"},   {0xc0, 0xc5, "a"},      {0xc6, 0xc6, "ae"},     {0xc7, 0xc7, "c"},
         {0xc8, 0xcb, "e"},      {0xcc, 0xcf, "i"},      {0xd1, 0xd1, "n"},      {0xd2, 0xd6, "o"},
         {0xd7, 0xd7, "x"},      {0xd8, 0xd8, "o"},      {0xd9, 0xdc, "u"},      {0xdd, 0xdd, "y"},
         {0xdf, 0xdf, "ss"},     {0xe0, 0xe5, "a"},      {0xe6, 0xe6, "ae"},     {0xe7, 0xe7, "c"},
         {0xe8, 0xeb, "e"},      {0xec, 0xef, "i"},      {0xf1, 0xf1, "n"},      {0xf2, 0xf6, "o"},
         {0xf7, 0xf7, "/"},      {0xf8, 0xf8, "o"},      {0xf9, 0xfc, "u"},      {0xfd, 0xfd, "y"},
         {0x152, 0x153, "oe"},   {0x300, 0x36f, ""},     {0x3a9, 0x3a9, "\1"},   {0x3bc, 0x3bc, "u"},
         {0x2000, 0x200a, " "},  {0x200b, 0x200f, ""},   {0x2010, 0x2011, "-"},  {0x2012, 0x2015, "~"},
         {0x2018, 0x2019, "'"},  {0x201c, 0x201d, "\""}, {0x2022, 0x2022, "."},  {0x202a, 0x202e, ""},
         {0x202f, 0x202f, " "},  {0x2032, 0x2032, "'"},  {0x2033, 0x2033, "\""}, {0x2044, 0x2044, "/"},
         {0x2126, 0x2126, "\1"}, {0x2212, 0x2212, "-"},  {0x25cf, 0x25cf, "."},  {0xfb01, 0xfb01, "fi"},
         {0xfb02, 0xfb02, "fl"}, {0xfeff, 0xfeff, ""}}};
    const auto it =
        std::upper_bound(all.begin(), all.end(), c, [](char32_t code, const Range& r) { return code < r.from; });
    if (it != all.begin() && c <= std::prev(it)->to)
        return std::prev(it)->as;
    return "?";
}

} // namespace

Letters lettersOf(std::string_view text, std::size_t line) {
    Letters all;
    all.reserve(text.size());
    for (std::size_t i = 0; i < text.size();) {
        const auto [code, length] = codeAt(text, i);
        if (code < 0x80) {
            const char c = code >= 'A' && code <= 'Z' ? static_cast<char>(code + 32) : static_cast<char>(code);
            all.push_back(
                {c == '\r' || c == '\v' || c == '\f' || (c < ' ' && c != '\t') ? ' ' : c, line, i, i + length});
        } else {
            const bool narrow = code == 0xa0 || code == 0x2009 || code == 0x202f || code == 0x2007;
            for (const char c : plainOf(code))
                all.push_back({c, line, i, i + length, narrow});
        }
        i += length;
    }
    return all;
}

Letters blanks(const Letters& like, std::size_t count) {
    if (like.empty())
        return {};
    const auto& last = like.back();
    return Letters(count, Letter{' ', last.line, last.to, last.to});
}

std::string folded(std::string_view utf8) {
    std::string all;
    for (const auto& l : lettersOf(utf8, 0))
        all += l.c;
    return all;
}

} // namespace loom::loudspeaker::sheet
