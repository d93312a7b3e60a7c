// Who talks and who listens in a space, as programs, cables and owners say it: nothing of it is kept twice.
#pragma once
#include "catalogue/transport.h"
#include "program/wall_switch.h"
#include "voicings/room_sound.h"

namespace loom::project {

// Rooms that are one while a wall state holds. Pointers belong to the project that it was made from.
struct SpaceOf {
    const Building* building = nullptr;
    const WallState* state = nullptr; // null: all walls closed
    Space space{};
    std::string key() const; // its rooms, joined by "+"
    // Whether a port with this entry in Device::owners is its own; of joined rooms also those of each.
    bool owns(const std::string& owner) const;
    std::set<std::string> walls() const; // open ones between its rooms
    // The project with every program as it is while those walls are open.
    Project at(Project project) const;
};
// Every space that some wall state of the project makes, each once: first those of closed walls.
std::vector<SpaceOf> spacesToTalkIn(const Project& project);
// Those with a microphone that is led somewhere, or a far end.
std::vector<SpaceOf> spacesThatTalk(const Project& project);
// One by a room's id or name, "tern+plover", or what a space is called; state: an id or name, "": closed, unless only
// another makes the rooms one.
Result<SpaceOf> spaceSaid(const Project& project, const std::string& said, const std::string& state = "");

struct Conversation {
    struct Microphone {
        std::string device, name; // of the microphone
        std::string role;         // Device::role, or what its place says: "" nothing
        SoundEnd input;           // of the processor that hears it
        std::string source;       // the source block there; "": no program takes it
        int group = -1, lane = -1;
        std::string echo; // echo canceller that it passes; "": none
        int beams = 0;    // of an array: inputs of its beams are one microphone
    };
    struct Group {
        std::string device, block, name;
        std::vector<int> lanes{};         // microphones by lane; -1: something else
        std::vector<std::string> heard{}; // what its loudspeaker inputs get: a block; "": nothing
    };
    struct FarEnd {
        Transport by = Transport::usb;
        std::string device, port, name;   // "usb 1"
        std::string source, destination;  // blocks of the program; "": none
        std::vector<std::string> mutes{}; // mutesBefore()
    };
    struct Listener {
        enum class Kind { farEnd, zone, loop, recorder, other };
        Kind kind = Kind::other;
        std::string device, block, port, name; // a destination
        int farEnd = -1;
    };
    struct MutePlace {
        std::string device, port, name; // port "": the device itself
        bool sets = false, shows = false;
    };
    std::string name, space, state; // "Council Hall", "council", a wall state's id
    std::set<std::string> open{};   // walls between its rooms
    std::string walls() const { return wallsText(open); }
    std::vector<Microphone> microphones{};
    std::vector<Group> groups{};
    std::vector<FarEnd> farEnds{};
    std::vector<Listener> listeners{};
    std::vector<MutePlace> mutePlaces{};
    bool empty() const { return microphones.empty() && farEnds.empty(); }
};
Conversation conversationOf(const Project& project, const SpaceOf& space);

// Mute blocks on the way to a destination alone, nearest first.
std::vector<std::string> mutesBefore(const engine::Program& program, const std::string& destination);
// Outputs of processors whose sound gets to loudspeakers of the space, over cables and streams.
std::set<SoundEnd> zoneEnds(const Project& project, const Space& space);

const char* nameOf(Conversation::Listener::Kind kind); // "zone"
std::string roleName(const std::string& role);         // "Chair"; "": "Talker"

} // namespace loom::project
