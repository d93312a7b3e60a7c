// What the product sees by itself: things wrong or risky in a project.
#pragma once
#include "project/block_names.h"
#include "project/model.h"
#include <stop_token>

namespace loom::project {

enum class Severity { note, fix };

struct Finding {
    std::string
        code; // stable: "no-arrival", "goes-nowhere", "off-not-flat", "over-budget", "loop", "unknown-block", ...
    Severity severity = Severity::note;
    std::string device, block; // ids; block may be empty
    std::string place;         // for people: "Heddle 16 · Delegate 3 · Equaliser"
    std::string reason, remedy;
    std::string stage = "Weave", room{}; // where it is dealt with; the room's name, or "Equipment rack"
    std::string because{};               // somebody decided to leave it, for this reason (Project::left)
    bool left() const { return !because.empty(); }
};

// All of them; `stop` ends the predictions of rooms early.
std::vector<Finding> check(const Project& project, std::stop_token stop = {});
std::vector<Finding> check(const Device& device);

// What the program takes of its device: sums over all blocks.
struct Load {
    double work = 0, memory = 0;                                  // ns per sample, bytes
    double workBudget = 0, memoryBudget = 0;                      // 0: unknown model
    int inputs = 0, outputs = 0, inputPorts = 0, outputPorts = 0; // ports in use, and those the model has
};
Load loadOf(const Device& device);
// The kinds of block that take most of a processor's work, dearest first: how many there are, and ns per sample of all.
struct Dear {
    std::string kind;
    int count = 0;
    double work = 0, memory = 0;
};
std::vector<Dear> dearest(const Device& device, std::size_t most);

} // namespace loom::project
