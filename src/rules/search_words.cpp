#include "rules/search_words.h"
#include <algorithm>

namespace loom::project {

std::string lowered(std::string t) {
    for (char& c : t)
        c = static_cast<char>(c >= 'A' && c <= 'Z' ? c - 'A' + 'a' : c);
    return t;
}

std::vector<std::string> searchWords(const std::string& text) {
    std::vector<std::string> all;
    for (std::size_t i = 0; i < text.size();) {
        const auto begin = text.find_first_not_of(' ', i), end = std::min(text.find(' ', begin), text.size());
        if (begin == std::string::npos)
            break;
        if (auto word = lowered(text.substr(begin, end - begin)); word != "\u00b7") // the dot of names is no word
            all.push_back(std::move(word));
        i = end;
    }
    return all;
}

bool hasWords(const std::string& text, const std::vector<std::string>& words) {
    const auto t = lowered(text);
    return std::all_of(words.begin(), words.end(), [&](const auto& w) { return t.find(w) != std::string::npos; });
}

} // namespace loom::project
