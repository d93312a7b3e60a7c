// Marks: how people see and handle blocks, without any effect on the sound. They are kept in Block::marks.
//   colour  a thread's name (room colours)          on ends
//   group   a heading that lanes lie together below on ends
//   folded  "yes": the group lies in one row        on every end of the group
//   place   a whole number: the order of lanes      on ends
//   link    lanes of one link are edited together (program/links.h)         on ends
//   apart   parameters that broke away from the link, between spaces        on any block
#pragma once
#include "engine/layout.h"
#include "engine/result.h"

namespace loom::project {

std::string markOf(const engine::Block& block, const std::string& key);
void setMark(engine::Block& block, const std::string& key, const std::string& value); // "" takes it away
engine::Program withMark(const engine::Program& p, const std::vector<std::string>& blocks, const std::string& key,
                         const std::string& value);

// What lanes are called without their number: "Delegate" of "Delegate 3". Empty if there is nothing else.
std::string stemOf(const std::string& label);
// Puts the ends below a heading; "" takes them out of theirs.
engine::Program groupLanes(const engine::Program& p, const std::vector<std::string>& ends, const std::string& name);
// Groups every lane with those of the same stem (two or more) on its side, or with those of the same sort of port.
enum class GroupBy { name, port, none };
engine::Program groupAllLanes(const engine::Program& p, GroupBy by);
// Folds or opens the groups that the ends lie in. Error: none of them lies in one.
Result<engine::Program> foldGroups(const engine::Program& p, const std::vector<std::string>& ends, bool folded);
// Moves lanes up (-1) or down (+1) past the next one of their side; lanes of a group move within it, and past others
// with it where all of it is meant. Error: they are at the edge already.
Result<engine::Program> moveLanes(const engine::Layout& layout, const engine::Program& p,
                                  const std::vector<std::string>& ends, int by);

} // namespace loom::project
