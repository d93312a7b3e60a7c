// Verbs of touch surfaces.
#pragma once
#include <CLI/CLI.hpp>
#include <functional>

namespace loom::cli {

void addSurfaceVerbs(CLI::App& app, std::function<int()>& action);

} // namespace loom::cli
