// What loomctl says of streams.
#pragma once
#include <CLI/CLI.hpp>
#include <functional>

namespace loom::cli {

void addStreamVerbs(CLI::App& app, std::function<int()>& action);

} // namespace loom::cli
