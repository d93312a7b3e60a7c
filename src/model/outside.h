// Devices that are no part of the network of sound and have a language of their own: displays, projectors, blinds,
// lights. What is said to them stands in a description of their kind; outside/template.h reads it.
#pragma once
#include "schema/extra.h"
#include <string>
#include <vector>

namespace loom::project {

// Something that one is, can be asked for, and maybe set: a parameter with the path "outside:DEVICE/STATE".
struct OutsideState {
    std::string id, name;
    std::vector<std::string> choices{}; // "off", "on"; none: a number
    std::vector<std::string> codes{};   // how the device writes each of them; none: as they are called here
    double low = 0, high = 100, step = 1;
    std::string unit{};   // "%"
    std::string set{};    // "POWER {value}\r"; "": it is only told
    std::string ask{};    // "POWER?\r"; "": nobody asks
    std::string answer{}; // "POWER {value}": what is heard of it
    double every = 0;     // s from one question to the next; 0: at the beginning and after it was set
    schema::Extra extra{};
    bool operator==(const OutsideState&) const = default;
};

// Something that is only said: a moment with the path "outside:DEVICE/COMMAND".
struct OutsideCommand {
    std::string id, name;
    std::string send{};
    schema::Extra extra{};
    bool operator==(const OutsideCommand&) const = default;
};

struct OutsideKind {
    enum class Link { tcp, udp, http, serial, osc, wake };
    std::string id, name;
    Link link = Link::tcp;
    int port = 0;        // where nothing else is said with the address
    int baud = 9600;     // serial
    bool hex = false;    // what is said and heard is written as pairs of hexadecimal digits
    std::string ends{};  // what every answer ends with; "": a pause does
    double pause = 0.05; // s that it needs between two messages
    double patience = 1; // s that it may take to answer
    int tries = 3;       // of a question; then it is lost
    std::string hello{}; // what it says by itself when somebody connects, and is not an answer
    std::vector<OutsideState> states{};
    std::vector<OutsideCommand> commands{};
    schema::Extra extra{};
    const OutsideState* state(const std::string& id) const;     // null: it has none
    const OutsideCommand* command(const std::string& id) const; // null: it has none
    bool operator==(const OutsideKind&) const = default;
};

struct OutsideDevice {
    std::string id, name, room{};
    std::string kind{};      // the id of one of the project's
    std::string address{};   // "192.0.2.40", "192.0.2.40:4001", "/dev/ttyS0", "00:11:22:33:44:55"
    std::string processor{}; // the device that talks to it; "": one of its room
    schema::Extra extra{};
    bool operator==(const OutsideDevice&) const = default;
};

inline constexpr const char* outsidePrefix = "outside:"; // "outside:display/power"
inline constexpr const char* outsideThere = "there";     // whether it answers: a state that each has
inline constexpr std::size_t mostOutside = 500, mostOutsideKinds = 200, mostOutsideStates = 200;

} // namespace loom::project
