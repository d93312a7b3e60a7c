// What stands in rooms, as places: seats one by one, floors at a spot, rooms that act as one.
#pragma once
#include "acoustics/directivity.h"
#include "engine/result.h"
#include "model/project.h"

namespace loom::project {

struct Seat {
    std::string seats; // the id of its block
    int number = 0;    // in it, from 1
    acoustics::Point ear{};
    bool talks = false;
};

// Every seat of a block, row by row; ears above the floor there.
std::vector<Seat> seatsOf(const Room& room, const Seats& seats);
std::vector<Seat> seatsOf(const Room& room);
// Height of the floor at a spot: that of a stage or slope there, else 0.
double floorAt(const Room& room, const acoustics::Spot& spot);
// The corners of a piece of furniture, and whether a spot lies on it.
acoustics::Outline cornersOf(const Furniture& piece);

// Rooms that act as one while a wall state holds.
struct Space {
    std::string name; // "Tern Room + Plover Room"
    std::vector<const Room*> rooms{};
    std::vector<const MovableWall*> open{};
    bool has(const std::string& room) const;
    double volume() const;    // m3, without stages
    double floorArea() const; // m2
};
// The spaces of a building in a wall state (null: all walls closed). Rooms without an outline are left out.
std::vector<Space> spacesOf(const Building& building, const WallState* state);
// The one a room belongs to; empty if it has no outline.
Space spaceOf(const Building& building, const WallState* state, const std::string& room);
// Length and height of an opening that a movable wall leaves, m2.
double openingOf(const Space& space, const MovableWall& wall);

// The shoebox that image sources are made in: the extent of the rooms with the mean height that keeps the volume,
// and the absorption of the faces, each the mean of the surfaces that look that way. Exact for one rectangular room.
struct Box {
    acoustics::Point corner{}, size{1, 1, 1};
    std::array<acoustics::Bands, 6> absorption{}; // x=0, x=L, y=0, y=W, floor, ceiling
};
Box boxOf(const Space& space);

// What is wrong with a room's shape; empty if nothing is.
std::vector<Error> errorsOf(const Room& room);

} // namespace loom::project
