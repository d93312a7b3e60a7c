// Verbs of outside devices: displays, projectors, blinds and what else has a language of its own.
#pragma once
#include <CLI/CLI.hpp>
#include <functional>

namespace loom::cli {

void addOutsideVerbs(CLI::App& app, std::function<int()>& action);

} // namespace loom::cli
