// What of the shared equipment belongs to which room: ports of processors, USB, telephone, contacts.
#pragma once
#include "rooms/room_shape.h"

namespace loom::project {

// Device::owners says of a port: one room's id, or several joined by "+" if it is theirs only while they are one.
std::vector<std::string> roomsOfOwner(const std::string& owner);
std::string ownerOf(const std::vector<std::string>& rooms);

struct OwnedPort {
    const Device* device = nullptr;
    std::string port;
    bool input = true;
};
// The ports a space has for itself: those of its rooms' own devices that are on the network (arrays, I/O boxes), and
// those of others that are given to its rooms.
// Joined rooms have the union, and what is theirs only together.
std::vector<OwnedPort> portsOf(const Project& project, const Space& space);
// The same for people: "Heddle 16 in 1-4, usb 1".
std::vector<std::string> portsText(const std::vector<OwnedPort>& ports);
// Every set of rooms that some wall state of a building makes one; as Device::owners names them.
std::vector<std::string> joinableRooms(const Project& project);

} // namespace loom::project
