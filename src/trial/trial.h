// The whole design at work on this computer without sockets or clocks: programs, cables, streams and the air of a room,
// block by block, as fast as it goes.
#pragma once
#include "dsp/long_matrix.h"
#include "engine/runner.h"
#include "voicings/room_sound.h"

namespace loom::project {

// One thread at a time. What microphones hear of people and noise is known beforehand and given; what they hear of
// loudspeakers comes about.
class Trial {
  public:
    static constexpr int block = 64;
    static constexpr double rate = 48000;
    // Devices that pass sound between the room, `ends` (inputs and outputs that are looked at from outside) and
    // `hears`. Error: one of them does not run at 48 kHz, or has a loop.
    static Result<std::unique_ptr<Trial>> make(const Project& project, std::shared_ptr<const RoomSound> room,
                                               const std::vector<SoundEnd>& ends);
    ~Trial();

    // Sound at a microphone (RoomSound::targets) or at an input from outside, for the next block; null: silence.
    // Pointers are read by the next step().
    void hear(std::size_t target, const float* samples) { given_[target] = samples; }
    void feed(const SoundEnd& input, const float* samples);
    void step();
    // What left an output (a processor's "usb 1") in the step before, `block` samples; null: there is no such.
    const float* left(const SoundEnd& output) const;
    // What the microphones heard in it.
    const float* heard(std::size_t target) const { return ears_[target].data(); }
    // The runner of a device, to set values and to look at its blocks; null: it does not take part.
    engine::Runner* runner(const std::string& device) const;

  private:
    struct Machine;
    struct Way;
    Trial();
    Machine* machine(const std::string& device) const; // null: it does not take part
    void carry();
    std::shared_ptr<const RoomSound> room_;
    std::unique_ptr<dsp::LongMatrix> air_;
    std::vector<std::unique_ptr<Machine>> machines_;
    std::vector<Way> ways_;
    std::vector<const float*> given_;
    std::vector<std::size_t> alike_, heard_; // by target: the first that hears the same; those that are first
    std::vector<std::vector<float>> ears_;   // by target
    std::vector<std::vector<float>> driven_; // by source of the room: what its loudspeakers play
    std::vector<const float*> fromSource_;   // the output of a machine that drives it
};

} // namespace loom::project
