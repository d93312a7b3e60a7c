#include "surface/letters.h"
#include "surface/letter_widths.h"
#include <algorithm>
#include <cmath>
#include <iterator>

namespace loom::project {

namespace {

constexpr double smallestShare = 0.6; // of its size, that letters become smaller for a long word

// The letters of a text in UTF-8; what is none stands for itself.
std::vector<unsigned> codesIn(const std::string& text) {
    std::vector<unsigned> all;
    for (std::size_t i = 0; i < text.size();) {
        const auto c = static_cast<unsigned char>(text[i]);
        const std::size_t n = c < 0x80 ? 1 : c >= 0xF0 ? 4 : c >= 0xE0 ? 3 : c >= 0xC0 ? 2 : 1;
        unsigned code = n == 1 ? c : c & (0xFFu >> (n + 1));
        for (std::size_t k = 1; k < n && i + k < text.size(); ++k)
            code = code << 6 | (static_cast<unsigned char>(text[i + k]) & 0x3F);
        all.push_back(code);
        i += n;
    }
    return all;
}

void dropLetter(std::string& text) {
    while (!text.empty() && (static_cast<unsigned char>(text.back()) & 0xC0) == 0x80)
        text.pop_back();
    if (!text.empty())
        text.pop_back();
}

std::vector<std::string> wordsOfText(const std::string& text) {
    std::vector<std::string> all;
    for (std::size_t at = 0; at < text.size();) {
        const auto end = std::min(text.find(' ', at), text.size());
        if (end > at)
            all.push_back(text.substr(at, end - at));
        at = end + 1;
    }
    return all;
}

} // namespace

double textWidth(const std::string& text, double size, bool bold, bool figures) {
    double sum = 0;
    for (const unsigned code : codesIn(text)) {
        const auto* it = std::lower_bound(std::begin(letterWidths), std::end(letterWidths), code,
                                          [](const LetterWidth& w, unsigned c) { return w.code < c; });
        const bool known = it != std::end(letterWidths) && it->code == code;
        sum += !known ? 1000 : figures ? it->figures : bold ? it->bold : it->medium;
    }
    return sum * size / 1000;
}

SetText setText(const Mark& m, const std::string& text, double width, double height) {
    SetText set;
    set.size = std::max(1.0, std::round(m.size));
    const auto wide = [&](const std::string& t) { return textWidth(t, set.size, m.bold, m.figures); };
    const auto words = wordsOfText(text);
    double longest = 0;
    for (const auto& word : words)
        longest = std::max(longest, wide(word));
    if (longest > width && width > 0)
        set.size = std::max(1.0, std::floor(m.size * std::max(smallestShare, width / longest)));
    const int font = m.figures ? 2 : m.bold ? 1 : 0;
    set.high = set.size * lineHeights[font] / 1000, set.ascent = set.size * lineAscents[font] / 1000;
    set.lines = {text};
    if (wide(text) > width && height >= 2 * set.high) {
        set.lines.clear();
        std::string line;
        for (const auto& word : words) {
            const auto longer = line.empty() ? word : line + " " + word;
            if (!line.empty() && wide(longer) > width) {
                set.lines.push_back(line);
                line = word;
            } else {
                line = longer;
            }
        }
        set.lines.push_back(line);
        set.cut = static_cast<double>(set.lines.size()) * set.high > height * 1.15;
    }
    for (auto& line : set.lines) {
        // Kerning makes it narrower than its letters are, if anything.
        if (wide(line) <= width * 1.02 + 0.5)
            continue;
        set.cut = true;
        while (!line.empty() && wide(line + "\u2026") > width + 0.5)
            dropLetter(line);
        while (!line.empty() && line.back() == ' ')
            line.pop_back();
        line += "\u2026";
    }
    return set;
}

} // namespace loom::project
