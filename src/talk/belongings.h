// Whose is what: the ports, lines, arrays and contacts of all processors, by room.
#pragma once
#include "model/edit.h"
#include "model/project.h"

namespace loom::project {

struct Belonging {
    enum class Kind { microphone, line, usb, telephone, array, contact };
    Kind kind = Kind::line;
    std::string device, port; // "usb 1", "in 4", "contact 2"; of an array: ""
    bool input = true;
    std::string name;  // what lies there: "Delegate 3 microphone", "Laptop"; "" nothing
    std::string owner; // a room's id, or rooms joined by "+"; "": nobody's
    bool used = false; // a program uses it, or it is led somewhere
    bool mayMove = true;
};
// Of devices with a program and of arrays, in the order of the project; network and ring channels that nobody owns are
// left out.
std::vector<Belonging> belongingsOf(const Project& project);
const char* nameOf(Belonging::Kind kind); // "USB"
// Gives ports to a room, to rooms joined by "+", or to nobody. Error: no such device, port or rooms that are never one.
Result<Edit> giveTo(const Project& project, const std::vector<std::pair<std::string, std::string>>& ports,
                    const std::string& owner);
// The latch of a movable wall (by id) on a contact; "": the contact is free. Error: no such contact or wall.
Result<Edit> setLatch(const Project& project, const std::string& device, const std::string& contact,
                      const std::string& wall);
// USB ports of devices whose other channel is a far end, that belong to nobody: a call may be on either.
struct OtherChannel {
    std::string device, used, free, owner;
};
std::vector<OtherChannel> otherChannels(const Project& project);

} // namespace loom::project
