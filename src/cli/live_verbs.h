// Verbs that speak with devices.
#pragma once
#include "model/edit.h"
#include <CLI/App.hpp>
#include <functional>

namespace loom::cli {

// Where devices are that a verb changes at once, as well as in the project.
struct OnSite {
    std::string range = "127.20.4.0/24", passwordFile{};
    int port = 4710;
    double seconds = 3; // until they have to answer
};
void addOnSite(CLI::App& verb, OnSite& at);
// One edit of a project, and of `device` on site. Gives the exit code.
int editOnSite(const std::string& file, const std::string& device, const OnSite& at, bool asJson,
               const std::function<Result<project::Edit>(const project::Project&)>& make);

void addLiveVerbs(CLI::App& app, std::function<int()>& action);

} // namespace loom::cli
