// The verb of control from outside: what others may know and set of a device.
#pragma once
#include <CLI/CLI.hpp>
#include <functional>

namespace loom::cli {

void addAccessVerb(CLI::App& app, std::function<int()>& action);

} // namespace loom::cli
