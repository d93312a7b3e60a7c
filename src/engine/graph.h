// The order in which the blocks of a program can run.
#pragma once
#include "engine/name_index.h"
#include "engine/program.h"
#include "engine/result.h"

namespace loom::engine {

inline constexpr std::size_t maxBlocks = 20000;

// Blocks and threads by number, as the compiler works with them.
struct Graph {
    NameIndex byName;                             // numbers of the blocks
    std::vector<std::pair<int, int>> connections; // from and to block, in the order of the program's threads
    std::vector<int> order;                       // every block after those that feed it
    std::vector<int> level;                       // of a block: the longest way to it from a block nothing feeds
};

// Error: two blocks of one name, a thread of a block that is not there, a loop with its path, too many blocks.
Result<Graph> graphOf(const Program& program);

} // namespace loom::engine
