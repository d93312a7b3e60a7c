#include "loudspeaker/sheet_words.h"
#include "dsp/number.h"
#include <array>
#include <cctype>
#include <cstdlib>
#include <string_view>
#include <utility>

namespace loom::loudspeaker {
namespace {

struct Letter {
    char c = 0;
    std::size_t from = 0, to = 0;
};

// Signs that sheets use, as plain letters; others of more than one byte are '?' and belong to words.
std::vector<Letter> lettersOf(const std::string& line) {
    static constexpr std::array<std::pair<std::string_view, char>, 13> plain{{{"\u2212", '-'},
                                                                              {"\u2013", '~'},
                                                                              {"\u2014", '~'},
                                                                              {"\u2011", '-'},
                                                                              {"\u00d7", 'x'},
                                                                              {"\u03a9", '\1'},
                                                                              {"\u2126", '\1'},
                                                                              {"\u00b0", '\2'},
                                                                              {"\u00b5", 'u'},
                                                                              {"\u03bc", 'u'},
                                                                              {"\u00a0", ' '},
                                                                              {"\u2009", ' '},
                                                                              {"\u202f", ' '}}};
    std::vector<Letter> all;
    for (std::size_t i = 0; i < line.size();) {
        const auto byte = static_cast<unsigned char>(line[i]);
        std::size_t length = byte < 0x80 ? 1 : byte < 0xe0 ? 2 : byte < 0xf0 ? 3 : 4;
        length = std::min(length, line.size() - i);
        char c = byte < 0x80 ? static_cast<char>(std::tolower(byte)) : '?';
        if (length > 1)
            for (const auto& [sign, as] : plain)
                if (std::string_view(line).substr(i, length) == sign)
                    c = as;
        all.push_back({c, i, i + length});
        i += length;
    }
    return all;
}

bool digit(char c) {
    return c >= '0' && c <= '9';
}

bool letter(char c) {
    return (c >= 'a' && c <= 'z') || c == '?';
}

} // namespace

std::vector<SheetWord> wordsOf(const std::string& line) {
    const auto s = lettersOf(line);
    std::vector<SheetWord> all;
    const auto at = [&](std::size_t i) { return i < s.size() ? s[i].c : '\0'; };
    int cell = 0;
    for (std::size_t i = 0; i < s.size();) {
        SheetWord w;
        w.from = s[i].from;
        w.cell = cell;
        const char c = at(i);
        if (c == '|' || c == '\t') {
            ++cell;
            ++i;
            continue;
        }
        if (c == ' ' || c == '\r') {
            std::size_t end = i;
            while (at(end) == ' ' || at(end) == '\r')
                ++end;
            const bool beside =
                at(end) == '|' || at(end) == '\t' || end >= s.size() || i == 0 || at(i - 1) == '|' || at(i - 1) == '\t';
            cell += end - i >= 2 && !beside;
            i = end;
            continue;
        }
        // A sign belongs to a number where no number or letter stands before it.
        const bool free = i == 0 || !(digit(at(i - 1)) || letter(at(i - 1)) || at(i - 1) == ')');
        const std::size_t first = (c == '-' || c == '+') && free ? i + 1 : i;
        std::size_t spaced = first;
        while (first > i && at(spaced) == ' ')
            ++spaced;
        if (digit(at(spaced)) || (at(spaced) == '.' && digit(at(spaced + 1)))) {
            std::size_t end = spaced;
            std::string number = c == '-' && first > i ? "-" : "";
            while (digit(at(end)) || ((at(end) == '.' || at(end) == ',') && digit(at(end + 1)))) {
                w.comma = w.comma || at(end) == ',';
                number += at(end) == ',' ? '.' : at(end);
                ++end;
            }
            w.is = SheetWord::Is::number;
            w.value = leadingNumber(number).value;
            if (at(end) == 'k' && (!letter(at(end + 1)) || (at(end + 1) == 'h' && at(end + 2) == 'z'))) {
                w.value *= 1000;
                w.kilo = true;
                ++end;
            }
            w.text = number;
            w.to = s[end - 1].to;
            i = end;
        } else if (c == '\1' || c == '\2') {
            w.text = c == '\1' ? "ohm" : "deg";
            w.to = s[i].to;
            ++i;
        } else if (letter(c)) {
            std::size_t end = i;
            while (letter(at(end)) || (end > i && (at(end) == '-' || at(end) == '/') && letter(at(end + 1))))
                w.text += at(end++);
            w.to = s[end - 1].to;
            i = end;
        } else {
            w.is = SheetWord::Is::sign;
            w.text = std::string(1, c);
            w.to = s[i].to;
            ++i;
        }
        all.push_back(std::move(w));
    }
    return all;
}

} // namespace loom::loudspeaker
