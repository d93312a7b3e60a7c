// Things on a plan, whatever they are: named by one text each, moved, copied, removed, and their fields read and set.
#pragma once
#include "rooms/room_edit.h"
#include "schema/field.h"

namespace loom::project {

// "room:tern", "seats:tern/seats", "talker:tern/lectern", "piece:tern/door", "device:column-l", "rack:rack-a",
// "wall:fold". Corners of rooms: "corner:tern/2", from 1.
struct PlanItem {
    std::string key, name, room{}; // room: the one it lies in
    acoustics::Spot at{};          // its middle
    acoustics::Outline outline{};  // what it covers; empty: a point
};
// Of one building: rooms first, then what lies upon them, devices last. Devices in racks are not among them.
std::vector<PlanItem> planItems(const Project& project, const Building& building);
const Building* buildingOfItem(const Project& project, const std::string& key);

// All of these give nothing (null) if there is nothing to do.
Edit moveItems(const Project& project, const std::vector<std::string>& keys, double dx, double dy);
// What the project would be with them moved: for predictions while something is dragged.
Project withMoved(const Project& project, const std::vector<std::string>& keys, double dx, double dy);
Edit removeItems(const Project& project, const std::vector<std::string>& keys);
// Copies beside them; devices get names and addresses of their own. `made`: the keys of the copies.
Edit duplicateItems(const Project& project, const std::vector<std::string>& keys, double dx, double dy,
                    std::vector<std::string>* made);
// Mirrored left to right about their common middle.
Edit mirrorItems(const Project& project, const std::vector<std::string>& keys);

std::vector<Field> fieldsOf(const Project& project, const std::string& key);
// Those of the first of several, marked where the others differ.
std::vector<Field> fieldsOf(const Project& project, const std::vector<std::string>& keys);
// Takes what people type ("3.2", "3.2 m"); goes to all items that have the field. Error: what is wrong with the
// value.
Result<Edit> setField(const Project& project, const std::vector<std::string>& keys, const std::string& field,
                      const std::string& value);

// New things in a room; the key of what was made goes to `made`.
Edit addSeats(const Project& project, const std::string& room, Seats seats, std::string* made);
Edit addTalker(const Project& project, const std::string& room, const acoustics::Spot& at, std::string* made);
Edit addFurniture(const Project& project, const std::string& room, Furniture::Kind kind, const acoustics::Spot& at,
                  std::string* made);
Edit addRack(const Project& project, const acoustics::Spot& at, std::string* made);
// A movable wall between the two rooms whose shared side is nearest to the line; and the two wall states, if there are
// none. Error: no two rooms meet there.
Result<Edit> addMovableWall(const Project& project, const acoustics::Spot& from, const acoustics::Spot& to);
// The room that holds a spot: the last drawn. Null: none.
const Room* roomAt(const Building& building, const acoustics::Spot& spot);

} // namespace loom::project
