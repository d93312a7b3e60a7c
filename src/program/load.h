// What a program takes of its processor.
#pragma once
#include "model/project.h"

namespace loom::project {

// Sums over all blocks.
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
