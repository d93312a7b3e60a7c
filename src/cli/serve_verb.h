// loomctl serve: the surfaces of a project for browsers, with every processor at work on this computer.
#pragma once
#include <CLI/App.hpp>
#include <functional>

namespace loom::cli {

void addServeVerb(CLI::App& app, std::function<int()>& action);

} // namespace loom::cli
