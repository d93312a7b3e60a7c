// docs/blocks.md and its pictures, made from the declarations.
#pragma once
#include <string>

namespace loom::cli {

int blocksPage();                             // to standard output
int blockDrawings(const std::string& folder); // an SVG for each kind that has a response or a static curve

} // namespace loom::cli
