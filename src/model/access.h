// What programs and controllers of others may know and set of a device, and the ways by which they ask. Nothing is open
// that is not named here.
#pragma once
#include "schema/extra.h"
#include <optional>
#include <string>
#include <vector>

namespace loom::project {

// One signal (rules/signal.h) that others may know.
struct AllowedSignal {
    std::string name;                    // by which they ask for it: "hall/level", in OSC "/hall/level"
    std::string signal{};                // "heddle/hall.level.gain"
    bool sets = false;                   // they may set it, too
    std::string role{};                  // whose PIN is asked for before; "": anybody's who reaches the device
    std::optional<double> low{}, high{}; // narrower than what it is by itself
    schema::Extra extra{};
    bool operator==(const AllowedSignal&) const = default;
};

struct Access {
    std::string id; // the device's
    bool osc = false, web = false, lines = false;
    int oscPort = 4782, linesPort = 4783;
    std::vector<std::string> oscTo{}; // who is told of every change: "192.0.2.9:9000"
    std::vector<AllowedSignal> allowed{};
    schema::Extra extra{};
    bool any() const { return osc || web || lines; }
    const AllowedSignal* find(const std::string& name) const; // null: there is none
    bool operator==(const Access&) const = default;
};

// "hall/level": small letters, digits, "-" and, between others, "/".
bool isAccessName(const std::string& text);

// A device has one list of PINs; those of its surfaces stand under their ids, these under this.
inline constexpr const char* accessPins = "@access";
inline constexpr std::size_t mostAccess = 200, mostAllowed = 2000, mostOscTo = 16;

} // namespace loom::project
