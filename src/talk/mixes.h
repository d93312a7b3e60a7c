// Who hears whom in a space, and how loud: talkers and far ends against listeners, one crossing each.
#pragma once
#include "model/edit.h"
#include "talk/conversation.h"

namespace loom::project {

// Levels below count as closed, dB.
inline constexpr double closedCrossing = -79.9;

struct Mixes {
    struct Talker {
        enum class Kind { microphone, farEnd, other };
        Kind kind = Kind::other;
        std::string device, source, name; // a block of the device's program
        int farEnd = -1;                  // Conversation::farEnds
        std::string role{};               // of a microphone
    };
    struct Cell {
        enum class State { closed, open, own, thread, apart };
        State state = State::apart;
        double db = -80;
        std::string device, block, param; // of the matrix mixer where they meet; "": they meet at none
        std::string over;                 // the source by which it comes to another processor; "": they are in one
        std::string why;                  // apart: what is missing
        bool audible() const { return state == State::thread || db > closedCrossing; } // own: it hears itself
    };
    std::vector<Talker> talkers{};
    std::vector<Conversation::Listener> listeners{};
    std::vector<Cell> cells{}; // talker * listeners + listener
    const Cell& at(std::size_t talker, std::size_t listener) const {
        return cells[talker * listeners.size() + listener];
    }
};
Mixes mixesOf(const Project& project, const SpaceOf& space);

// Sets the level of a crossing, dB (-80 to 12); nothing: opens what is closed, as loud as others of its kind are for
// this listener, and closes what is open. Error: its own sound, or they meet at no matrix mixer.
Result<Edit> setCrossing(const Project& project, const Mixes& mixes, std::size_t talker, std::size_t listener,
                         std::optional<double> db = {});
// Brings a talker that is apart to a listener: onto its mixes, or by a channel of a stream to its processor. Error: no
// port is left for it.
Result<Edit> bringTo(const Project& project, const Mixes& mixes, std::size_t talker, std::size_t listener);
// By names, as people say them: "Delegate 3", "Hearing loop". Error: there is no such, or there are two.
Result<std::size_t> talkerSaid(const Mixes& mixes, const std::string& said);
Result<std::size_t> listenerSaid(const Mixes& mixes, const std::string& said);

} // namespace loom::project
