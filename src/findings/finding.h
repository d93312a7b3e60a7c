// A thing that is wrong or risky in a project.
#pragma once
#include "findings/registry.h"
#include "model/project.h"

namespace loom::project {

struct Finding {
    FindingCode code{};
    std::string device{}, block{}; // ids; block may be empty
    std::string place{};           // for people: "Heddle 16 · Delegate 3 · Equaliser"
    std::string reason{}, remedy{};
    std::string room{};    // its name, or "Equipment rack"
    std::string because{}; // somebody decided to leave it, for this reason (Project::dismissed)
    bool dismissed() const { return !because.empty(); }
    // What stands in the registry.
    std::string id() const { return kindOf(code).id; }
    std::string stage() const { return kindOf(code).stage; }
    Severity severity() const { return kindOf(code).severity; }
};

} // namespace loom::project
