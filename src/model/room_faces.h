// The faces of a room (floor, ceiling, walls), and what each is made of.
#pragma once
#include "catalogue/materials.h"
#include "model/rooms.h"

namespace loom::project {

// Surfaces of a room: floor, ceiling, "wall 1" .. in the order of the outline's corners.
std::vector<std::string> surfacesOf(const Room& room);
// What a surface is made of: its own finish, for a wall else that of "walls", else plaster (walls, ceiling), linoleum.
const Material& finishOf(const Room& room, const std::string& surface);
double areaOf(const Room& room, const std::string& surface); // m2, without openings

} // namespace loom::project
