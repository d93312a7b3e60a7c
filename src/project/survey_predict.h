// Will it work? Predictions of a space from the rooms, devices and models of a project.
#pragma once
#include "project/survey_shape.h"
#include "room/loop_gain.h"
#include "room/map.h"
#include "room/pick_up.h"
#include <memory>

namespace loom::project {

// Octave levels of a room's background noise, dB SPL.
room::Bands noiseBands(const Noise& noise);

// All that predictions need of one space, copied: it may outlive the project and belong to any thread.
struct SpaceModel {
    struct Loudspeaker {
        std::string id, name;
        room::Point at{};
        room::Aim aim{};
        std::shared_ptr<const room::Directivity> pattern;
        room::Bands bands{};            // dB against the sensitivity
        double level = 0, maxLevel = 0; // dB SPL at 1 m: sensitivity and trim; what it bears for long
        double delay = 0;               // s
    };
    struct Microphone {
        std::string id, name;
        room::Point at{};
        room::Bands factor{};
        int lobes = 0;
        double pattern = 1;
        bool reinforced = true;
    };
    struct Voice { // a talker, or a seat from which people talk
        std::string name;
        room::Point at{};
        double level = 60;
    };
    std::string name, wallState;
    std::vector<std::string> rooms{};
    std::vector<room::Outline> outlines{};
    double volume = 0, floorArea = 0, ear = 1.2;
    room::Reverberation reverberation{};
    room::Bands noise{};
    room::Air air{};
    Box box{};
    Targets targets{};
    std::vector<Seat> seats{};
    std::vector<Loudspeaker> loudspeakers{};
    std::vector<Microphone> microphones{};
    std::vector<Voice> voices{};

    // Speech over the loudspeakers: every loudspeaker gets the same signal, such that one of the given A-weighted
    // sensitivity makes that level at 1 m; `drive` in dB on top.
    room::Field field(double drive) const;
    double neededDrive() const; // so that the seats' mean is the target; 0 without seats or loudspeakers
};
SpaceModel modelOf(const Project& project, const Space& space, const WallState* state);
room::Bands noiseOf(const Noise& noise);

// What stands beside the plan.
struct SpaceFigures {
    std::string name, wallState;
    std::vector<std::string> rooms{};
    double volume = 0, floorArea = 0;
    int seats = 0, loudspeakers = 0, microphones = 0;
    room::Bands sabine{}, eyring{}; // s
    room::Bands noise{};
    double noiseA = 0;
    bool predicted = false; // there are seats and loudspeakers
    double meanA = 0;       // of the seats, dB(A): the target, unless the loudspeakers do not reach it
    room::Evenness
        levels{}; // direct sound at the seats in the octave of 2 kHz, where loudspeakers beam and clarity lies, dB
    double worstSti = 0, worstClarity = 0;
    std::string worstSeat{};
    double drive = 0, headroom = 0; // dB above the sensitivity; what is left of the weakest loudspeaker
    double farthestDelay = 0;       // s between loudspeakers that are within 10 dB, at the worst seat
    struct Heard {
        std::string voice, microphone;
        room::PickUp pickUp{};
        bool good = false;
    };
    std::vector<Heard> heard{}; // each talker at the microphone that hears it best
    int talkersHeard = 0;
};
SpaceFigures figuresOf(const SpaceModel& model);

// The loop of all loudspeakers into each microphone that is reinforced, through image sources of the space's box. With
// the drive that reaches the target, what is left up to ringing after a margin of 6 dB and 10 lg of the open
// microphones.
struct LoopFigure {
    std::string microphone;
    double spareDb = 0, limitDb = 0; // limit: how far the gain may go up until it rings, with one microphone open
    double hz = 0;
};
// Worst first. Nothing without loudspeakers, seats or such microphones, or if it was stopped.
std::vector<LoopFigure> loopsOf(const SpaceModel& model, int openMicrophones, std::stop_token stop = {});
inline constexpr double feedbackMargin = 6; // dB
// The response that one such loop has at the needed drive, for whoever wants to try it: sampled at loopRate.
inline constexpr double loopRate = 16000;
std::vector<float> loopResponse(const SpaceModel& model, std::size_t microphone, std::stop_token stop = {});

// Sound pressure at a microphone through image sources of the space's box, with 1 at 1 m on the source's axis as the
// unit: of a loudspeaker, or of somebody (null) who sends the same to all sides from a point. The microphone looks
// `towards` (any length > 0). Band by band it is the one of 1 kHz; below 120 Hz, where microphones and loudspeakers of
// speech systems end, it falls off by 24 dB an octave. `length` in samples.
std::vector<float> airResponse(const SpaceModel& model, const SpaceModel::Loudspeaker* from, const room::Point& at,
                               const SpaceModel::Microphone& microphone, const room::Point& towards, double rate,
                               std::size_t length);

// Reverberation time (T20) of the box by image sources, from a corner to the middle, per octave 125 Hz to 4 kHz; 0
// where the response is too short.
room::Bands imageSourceDecay(const SpaceModel& model, std::stop_token stop = {});

// Places of a map: spots of all rooms of the space at ear height.
std::vector<room::Point> mapPlaces(const SpaceModel& model, double step);

} // namespace loom::project
