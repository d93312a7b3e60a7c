// A conversation as it goes on for a while: who says what when, and what the microphones of the room hear of it.
#pragma once
#include "talk/speech.h"
#include "trial/trial.h"
#include <functional>

namespace loom::project {

// Times in samples at Trial::rate.
struct Dialogue {
    struct Said {
        std::size_t source; // RoomSound::sources: a person
        std::size_t from, length;
        const std::vector<float>* what; // over and over; r.m.s. 1 A-weighted stands for the person's level
        double gainDb = 0;
    };
    std::size_t length = 0;
    std::vector<Said> said{};
    std::vector<std::pair<std::size_t, std::size_t>> farEnd{}; // from, length: while it speaks
    bool noise = true;
    int onlyNoiseOf = -1; // a target: the others hear none; -1: all
};

// What each target hears of people and of the room's noise: RoomSound::targets by dialogue.length. Takes a while; empty
// if it was stopped.
std::vector<std::vector<float>> heardIn(const Dialogue& dialogue, const RoomSound& room, std::stop_token stop = {});

// Runs it. Each block's end is told with its first sample; what the far end says goes to `input`, and what it is sent
// is gathered from `output`.
struct Played {
    std::vector<float> sent{}, said{}; // to the far end, and by it
};
Played play(Trial& trial, const Dialogue& dialogue, const std::vector<std::vector<float>>& heard, const SoundEnd& input,
            const SoundEnd& output, const std::vector<float>& farEnd,
            const std::function<void(std::size_t at)>& told = {}, std::stop_token stop = {});

} // namespace loom::project
