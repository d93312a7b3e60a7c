// What a device's program needs to run on this computer, and running it faster than real time.
#pragma once
#include "engine/kernel.h"
#include "model/project.h"
#include "program/tapes.h"

namespace loom::project {

// An asset as sound, or as the taps of a filter, at a rate; null: it is neither, or there is none of this name.
std::shared_ptr<const dsp::AudioClip> clipOf(const Assets& assets, const std::string& name, double rate);

// Clips from the project's assets; where `stands` is set, stand-in sound for the device's inputs. Decoded once, kept.
// `device` and the assets are copied: the result outlives the project.
engine::Resources resourcesOf(const Project& project, const Device& device, bool stands);

// Runs the program for `seconds` with the sound that stands in for its inputs: the highest peak in dBFS at each port
// that sound leaves, and at each it ends at.
Result<std::map<engine::PortRef, double>> levelsOf(const Project& project, const Device& device, double seconds);

struct RenderInput {
    std::string port;
    std::shared_ptr<const dsp::AudioClip> clip; // one channel, at the device's rate
};

// Runs the program from its start for `seconds` with the inputs, and gives what leaves each destination of `ports`.
// What its recorder blocks gather goes to `tapes`, if there are any.
Result<std::vector<std::vector<float>>> render(const Project& project, const Device& device,
                                               const std::vector<RenderInput>& inputs,
                                               const std::vector<std::string>& ports, double seconds,
                                               Tapes* tapes = nullptr);

} // namespace loom::project
