// How devices are on site, in one word each, and how a room is: what the plan, the table and the health board say.
#pragma once
#include "model/project.h"

namespace loom::project {

enum class Health { unknown, good, attention, bad }; // from best to worst, after unknown

// What a device tells of itself.
struct Vitals {
    double celsius = 0;
    bool clip = false, clockLost = false, muted = false;
    std::map<std::string, std::string> outputs{}; // amplifiers: "out 1" -> "good", "open", "short"
    std::string firmware{}, firmwareBefore{};
    double uptime = 0;                           // s
    std::string lamp{};                          // "live", "muted", "waits", "blinks"
    std::map<std::string, std::string> sounds{}; // network inputs: "encrypted", "open", "refused", "none"
    std::map<std::string, bool> contacts{};      // inputs; true: closed
    std::map<std::string, bool> mutes{};         // by place ("self", "usb 1", "relay 1") and space ("council"): muted
    std::map<std::string, std::string> lines{};  // by port: "in a call", "no account", "gone"
    std::string clock{}, clockFrom{}; // of its sound network: "leads", "follows", "free", "": none; who leads
    double clockAhead = 0;            // samples, of the one that leads
    bool operator==(const Vitals&) const = default;
};
inline constexpr double hotCelsius = 70; // electronics wear fast above; a rule of thumb

// What was heard of one device. `seen`: when something was looked for at all; a device nobody looked for has no health.
struct DeviceReport {
    bool paired = false, reachable = false;
    bool hasProgram = true; // one that runs; devices that need none have it
    int differing = 0;      // values that differ from the design
    bool kept = true;       // what runs survives power-off
    bool locked = false;    // sealed, and the password was not given here
    Vitals vitals{};
};

struct HealthWord {
    Health health = Health::unknown;
    std::string word, reason; // "differs", "12 values differ from the design."
    bool operator==(const HealthWord&) const = default;
};
HealthWord wordOf(const DeviceReport& report);

// By device id: what is known on site. Devices that are not in it were not looked for.
using SiteHealth = std::map<std::string, HealthWord>;
// The worst of a room's devices, with how many are not well; devices in racks count for no room.
HealthWord roomHealth(const Project& project, const std::string& room, const SiteHealth& devices);

} // namespace loom::project
