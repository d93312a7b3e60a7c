// What a first pass set, and what somebody set by hand: told by marks of blocks (Block::marks "first-pass").
#pragma once
#include "engine/block_kind.h"

namespace loom::project {

inline constexpr const char* firstPassMark = "first-pass"; // Block::marks

namespace first {

// Its value is another than the default, and than what a first pass set there last.
bool isByHand(const engine::Block& b, const std::string& param);
void setFirst(engine::Block& b, const std::string& param, double value); // to a tenth; remembers it
double valueOf(const engine::Block& b, const std::string& param);

} // namespace first
} // namespace loom::project
