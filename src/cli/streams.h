// What loomctl says of streams, and of the cables they go over.
#pragma once
#include "model/project.h"
#include <CLI/CLI.hpp>
#include <functional>

namespace loom::cli {

// Says a value of a stream or receiver ("heddle/stream.hall-mix.level"), or sets it first; gives the exit code.
int streamValue(project::Project& p, const std::string& file, const std::string& path, const std::string& value,
                bool set, bool asJson);
void addStreamVerbs(CLI::App& app, std::function<int()>& action);
void addWireVerbs(CLI::App& app, std::function<int()>& action);

} // namespace loom::cli
