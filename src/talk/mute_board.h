// The mute of a space: one state, every place that sets or shows it, and where its sound is really cut.
#pragma once
#include "model/edit.h"
#include "talk/conversation.h"

namespace loom::project {

struct MuteBoard {
    enum class Line { own, wired, usb, telephone, network }; // over which it hears of the others
    struct Place {
        std::string device, key; // "self", "usb 1", "contact 2", "relay 1"; "cut": the processor's own blocks
        std::string name, kind;  // "Council tap", "button"
        std::string does;        // "sets", "shows", "off", "cuts"; of a contact or relay that is free: "off"
        bool maySet = true;
        bool cuts = false; // it cuts sound by itself
        Line line = Line::network;
        std::string space{}; // that its mute belongs to: of joined rooms one of them
    };
    struct Cut { // on the way to a far end
        std::string device, farEnd, destination;
        std::vector<std::string> blocks{}; // none: nothing cuts it
    };
    std::vector<Place> places{};
    std::vector<Cut> cuts{};
    bool any() const; // some place sets it
    // Where it can be set although the network is gone; "": nowhere.
    std::string withoutNetwork() const;
};
MuteBoard muteBoardOf(const Project& project, const SpaceOf& space);
const char* nameOf(MuteBoard::Line line); // "over the network"

// What a place does from now on: "sets", "shows" or "off". Error: there is no such place, or it cannot.
Result<Edit> setMutePlace(const Project& project, const SpaceOf& space, const std::string& device,
                          const std::string& key, const std::string& does);
// Mute blocks on the way to all far ends that have none. Error: nothing is missing.
Result<Edit> cutFarEnds(const Project& project, const SpaceOf& space);
// Mute blocks on the way to the far ends of each space that a device's ports belong to: what the device mutes.
std::map<std::string, std::vector<std::string>> mutedBlocks(const engine::Program& program,
                                                            const std::map<std::string, std::string>& spaceOfPort);

} // namespace loom::project
