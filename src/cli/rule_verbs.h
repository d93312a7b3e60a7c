// Verbs of rules: what happens when, scenes, scripts, rehearsals.
#pragma once
#include <CLI/CLI.hpp>
#include <functional>

namespace loom::cli {

void addRuleVerbs(CLI::App& app, std::function<int()>& action);

} // namespace loom::cli
