// A room once more, with all that belongs to it.
#pragma once
#include "rooms/room_rules.h"

namespace loom::project {

// A copy of a room beside it (or in another project), with its devices and their programs; names and addresses renewed,
// and what refers to a device of the room refers to its copy. Cables between its devices come along with numbers of
// their own; in the same project those to others too, into the first free socket there. Scenes of the room come along
// with their values re-pointed, and so do the surfaces of its touch surfaces, with their pictures, its rules with their
// tests, and its outside devices, without their addresses.
struct RoomCopy {
    List<Building> buildings{}; // of the project it goes to
    List<Wire> wires{};         // likewise
    List<Surface> surfaces{};   // new ones
    List<Scene> scenes{};       // likewise
    RoomRules happens{};        // likewise
    Assets pictures{};          // that the other project has not
    Renewed renewed{};
    std::string room{};
};
Result<RoomCopy> copyRoom(const Project& from, const std::string& room, const Project& to, const std::string& name);
Project withCopy(Project to, const RoomCopy& copy);
// A copy of a device that drove itself (a loudspeaker with an amplifier in it) drives itself again.
void drivesItself(Device& copy, const std::string& original);

} // namespace loom::project
