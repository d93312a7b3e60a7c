// One space as predictions and runs see it.
#pragma once
#include "acoustics/field.h"
#include "rooms/room_shape.h"
#include <memory>

namespace loom::project {

// All that predictions need of one space, copied: it may outlive the project and belong to any thread.
struct SpaceModel {
    struct Loudspeaker {
        std::string id, name;
        acoustics::Point at{};
        acoustics::Aim aim{};
        std::shared_ptr<const acoustics::Directivity> pattern;
        acoustics::Bands bands{};       // dB against the sensitivity
        double level = 0, maxLevel = 0; // dB SPL at 1 m: sensitivity and trim; what it bears for long
        double delay = 0;               // s
    };
    struct Microphone {
        std::string id, name;
        acoustics::Point at{};
        acoustics::Bands factor{};
        int lobes = 0;
        double pattern = 1;
        bool reinforced = true;
    };
    struct Voice { // a talker, or a seat from which people talk
        std::string name;
        acoustics::Point at{};
        double level = 60;
    };
    std::string name, wallState;
    std::vector<std::string> rooms{};
    std::vector<acoustics::Outline> outlines{};
    double volume = 0, floorArea = 0, ear = 1.2;
    acoustics::Reverberation reverberation{};
    acoustics::Bands noise{};
    acoustics::Air air{};
    Box box{};
    Targets targets{};
    std::vector<Seat> seats{};
    std::vector<Loudspeaker> loudspeakers{};
    std::vector<Microphone> microphones{};
    std::vector<Voice> voices{};

    // Speech over the loudspeakers: every loudspeaker gets the same signal, such that one of the given A-weighted
    // sensitivity makes that level at 1 m; `drive` in dB on top.
    acoustics::Field field(double drive) const;
    double neededDrive() const; // so that the seats' mean is the target; 0 without seats or loudspeakers
};
SpaceModel modelOf(const Project& project, const Space& space, const WallState* state);

} // namespace loom::project
