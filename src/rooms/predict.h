// Will it work? Predictions of a space from the rooms, devices and models of a project.
#pragma once
#include "acoustics/loop_gain.h"
#include "acoustics/map.h"
#include "acoustics/pick_up.h"
#include "rooms/space_model.h"

namespace loom::project {

// What stands beside the plan.
struct SpaceFigures {
    std::string name, wallState;
    std::vector<std::string> rooms{};
    double volume = 0, floorArea = 0;
    int seats = 0, loudspeakers = 0, microphones = 0;
    acoustics::Bands sabine{}, eyring{}; // s
    acoustics::Bands noise{};
    double noiseA = 0;
    bool predicted = false; // there are seats and loudspeakers
    double meanA = 0;       // of the seats, dB(A): the target, unless the loudspeakers do not reach it
    acoustics::Evenness
        levels{}; // direct sound at the seats in the octave of 2 kHz, where loudspeakers beam and clarity lies, dB
    double worstSti = 0, worstClarity = 0;
    std::string worstSeat{};
    double drive = 0, headroom = 0; // dB above the sensitivity; what is left of the weakest loudspeaker
    double farthestDelay = 0;       // s between loudspeakers that are within 10 dB, at the worst seat
    struct Heard {
        std::string voice, microphone;
        acoustics::PickUp pickUp{};
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

// Reverberation time (T20) of the box by image sources, from a corner to the middle, per octave 125 Hz to 4 kHz; 0
// where the response is too short.
acoustics::Bands imageSourceDecay(const SpaceModel& model, std::stop_token stop = {});

// Places of a map: spots of all rooms of the space at ear height.
std::vector<acoustics::Point> mapPoints(const SpaceModel& model, double step);

} // namespace loom::project
