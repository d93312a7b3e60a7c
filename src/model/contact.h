// What hangs on the contacts and relays of a processor, in words: "wall fold tern+plover", "mute council",
// "lamp council".
#pragma once
#include "engine/result.h"
#include <string>
#include <vector>

namespace loom::project {

struct ContactUse {
    enum class Kind { none, wall, mute, lamp } kind = Kind::none;
    std::string wall{}; // a movable wall's id: the contact is closed while it is
    std::string
        space{}; // rooms joined by "+": that the wall makes one, that the button mutes, whose mute lights the lamp
    bool operator==(const ContactUse&) const = default;
};
// id: "contact 1" or "relay 1"; "" is none. Error: no such use, or one that this cannot have.
Result<ContactUse> readContact(const std::string& id, const std::string& text);
std::string contactText(const ContactUse& use);

// What a place does about the mute of its space: "council sets".
struct MuteUse {
    std::string space{};
    bool sets = false; // else it shows it
    bool operator==(const MuteUse&) const = default;
};
Result<MuteUse> readMuteUse(const std::string& text);

} // namespace loom::project
