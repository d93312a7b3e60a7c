// What loomctl says of conversations.
#pragma once
#include <CLI/CLI.hpp>
#include <functional>

namespace loom::cli {

void addTalkVerbs(CLI::App& app, std::function<int()>& action);

} // namespace loom::cli
