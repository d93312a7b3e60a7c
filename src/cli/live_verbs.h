// Verbs that speak with devices.
#pragma once
#include <CLI/App.hpp>
#include <functional>

namespace loom::cli {

void addLiveVerbs(CLI::App& app, std::function<int()>& action);

} // namespace loom::cli
