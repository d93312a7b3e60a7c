// Files of a block: texts "file", "file.2", "file.3" ... name assets of the project.
#pragma once
#include <map>
#include <string>
#include <vector>

namespace loom::engine {

inline constexpr int maxPlayList = 32;

inline std::string fileKey(int number) { // from 1
    return number == 1 ? "file" : "file." + std::to_string(number);
}

// The files there are, in order; gaps are closed.
inline std::vector<std::string> playList(const std::map<std::string, std::string>& texts) {
    std::vector<std::string> all;
    for (int n = 1; n <= maxPlayList; ++n)
        if (const auto it = texts.find(fileKey(n)); it != texts.end() && !it->second.empty())
            all.push_back(it->second);
    return all;
}

} // namespace loom::engine
