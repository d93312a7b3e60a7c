// What the product sees by itself: things wrong or risky in a project.
#pragma once
#include "project/model.h"

namespace loom::project {

enum class Severity { note, fix };

struct Finding {
    std::string
        code; // stable: "no-arrival", "goes-nowhere", "off-not-flat", "over-budget", "loop", "unknown-block", ...
    Severity severity = Severity::note;
    std::string device, block; // ids; block may be empty
    std::string place;         // for people: "Heddle 16 · Delegate 3 · Equaliser"
    std::string reason, remedy;
};

std::vector<Finding> check(const Project& project);
std::vector<Finding> check(const Device& device);

// What the program takes of its device: sums over all blocks.
struct Load {
    double work = 0, memory = 0;             // ns per sample, bytes
    double workBudget = 0, memoryBudget = 0; // 0: unknown model
};
Load loadOf(const Device& device);

// The name of a block as people know it: its label, or its kind's with the lane it lies on.
std::string blockName(const engine::Program& program, const engine::Block& block);

} // namespace loom::project
