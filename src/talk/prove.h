// What the far end gets: a conversation run through its room, and judged.
#pragma once
#include "talk/conversation.h"
#include "talk/speech.h"
#include <functional>

namespace loom::project {

// A figure of a proof: declared once, in the order in which it is told.
struct TalkFigure {
    const char* id;    // "echo"
    const char* label; // "Hears its own echo"
    const char* unit;
    int digits;
    bool most; // the target is the most it may be; else the least
    double target;
    const char* remedy;
};
const std::vector<TalkFigure>& talkFigures();
const TalkFigure* talkFigure(const std::string& id); // null: there is none
bool meets(const TalkFigure& figure, double value);

struct TalkProof {
    struct Talker {
        std::string name, microphone; // a device's name
        double levelDb = 0;           // of what the far end is sent while this one speaks alone, dBFS (A)
        double sti = 0, roomSti = 0;  // through the whole chain; of the room's response and the noise at the microphone
        double lateMs = 0;            // of the first syllable; 0 where nothing opens
        double cutMs = 0;             // of what is said afterwards while its microphone is closed
    };
    std::string space, state, farEnd;
    std::map<std::string, double> figures{};    // by id; those that could not be measured are not there
    std::map<std::string, std::string> where{}; // of a figure: who is the worst
    std::vector<Talker> talkers{};
    struct Lane { // of a microphone in a group
        std::string name;
        std::vector<float> db{}; // its gain, each 1.33 ms (Trial::block)
    };
    std::vector<Lane> lanes{};
    std::vector<float> sent{};               // what the far end was sent, at 48 kHz
    double seconds = 0;                      // of sound that were run
    std::vector<std::string> missed() const; // ids
    Proof kept(const std::string& when, const std::string& design) const;
};

// Talkers in turn, together, with noise, and with the far end talking. Error: nobody talks, no far end is sent
// anything, or a device cannot run. `progress` from 0 to 1, from any thread.
Result<TalkProof> proveTalk(const Project& project, const SpaceOf& space, const Speech& speech,
                            const std::function<void(double)>& progress = {}, std::stop_token stop = {});

// A short sum of all that a proof depends on: programs, rooms, cables, voicings; the same after a round trip.
std::string designSum(const Project& project);

} // namespace loom::project
