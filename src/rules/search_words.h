// Typed words, and texts that have them, whatever the letters' case is (ASCII).
#pragma once
#include <string>
#include <vector>

namespace loom::project {

std::string lowered(std::string text);
std::vector<std::string> searchWords(const std::string& typed); // lowered
bool hasWords(const std::string& text, const std::vector<std::string>& words);

} // namespace loom::project
