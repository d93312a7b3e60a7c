// The verbs of loomctl. Each is declared with its words, its example and what it does.
#pragma once
#include <functional>

namespace CLI {
class App;
}

namespace loom::cli {

// Adds every verb; the one that was called puts its work into `action`, whose result is the exit code: 0 good, 1
// findings to fix, 2 wrong input.
void addVerbs(CLI::App& app, std::function<int()>& action);

} // namespace loom::cli
