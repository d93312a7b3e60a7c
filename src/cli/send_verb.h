// loomctl send: says something to an outside device from this computer, and what it answers.
#pragma once
#include <CLI/CLI.hpp>
#include <functional>

namespace loom::cli {

void addSendVerb(CLI::App& app, std::function<int()>& action);

} // namespace loom::cli
