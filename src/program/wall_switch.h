// What of a program is at work in which state of the movable walls.
//   walls        which are open while a block is at work, "fold" or "fold+slide"; without it: while its rooms are
//                apart; "any": always
//   wall-switch  on a selector: the states it knows in order, "-;fold" ("-": all closed). In the state of number i its
//                output k (from 0) takes its input i * outputs + k.
// Both are marks (Block::marks). A device whose contacts tell it which walls are open sets its selectors by itself.
#pragma once
#include "engine/program.h"
#include <set>

namespace loom::project {

inline constexpr const char *wallsMark = "walls", *wallSwitchMark = "wall-switch";

std::string wallsText(const std::set<std::string>& open); // "fold+slide"; "": none is open
std::set<std::string> readWalls(const std::string& text);
std::string wallsOf(const engine::Block& block); // its mark; "": it is at work while all are closed, or always
bool isAtWork(const engine::Block& block, const std::string& walls); // while these are open
bool isWallSwitch(const engine::Block& block);
// The states that a switch knows, in order; empty: it is none.
std::vector<std::string> statesOf(const engine::Block& block);
// Its parameters in a state: that of its states with the most walls of those that are open, and no other.
std::map<std::string, double> wallValues(const engine::Block& block, const std::set<std::string>& open);
// A program as it is while these walls are open.
engine::Program atWalls(engine::Program program, const std::set<std::string>& open);

} // namespace loom::project
