// loomctl: the formats of files.
#pragma once
#include <functional>

namespace CLI {
class App;
}

namespace loom::cli {

void addFormatVerbs(CLI::App& app, std::function<int()>& action);

} // namespace loom::cli
