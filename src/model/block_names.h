// What people call blocks.
#pragma once
#include "engine/program.h"
#include <string_view>
#include <unordered_map>

namespace loom::project {

// The names of all blocks of a program, which must stay as it is while this is used. A name is the block's label, or
// its kind's with the lane it lies on: the source (walking up) or destination (walking down) that is reached through
// blocks of one thread; else what feeds it. Time for one name grows with the length of its chain.
class BlockNames {
  public:
    explicit BlockNames(const engine::Program& program);
    std::string of(const engine::Block& block) const;

    struct Ways { // how many threads arrive and leave, and one of each
        const engine::Block* block = nullptr;
        const engine::Connection *up = nullptr, *down = nullptr;
        int ups = 0, downs = 0;
    };
    Ways at(const std::string& id) const; // without a block: there is none of this id

  private:
    const engine::Program& program_;
    std::unordered_map<std::string_view, Ways> ways_;
};

// One name, without going through the whole program where its lane is short; for many, make BlockNames once.
std::string blockName(const engine::Program& program, const engine::Block& block);

} // namespace loom::project
