// What loomctl says of streams, and of the cables they go over.
#pragma once
#include <CLI/CLI.hpp>
#include <functional>

namespace loom::cli {

void addStreamVerbs(CLI::App& app, std::function<int()>& action);
void addWireVerbs(CLI::App& app, std::function<int()>& action);

} // namespace loom::cli
