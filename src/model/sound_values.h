// Values of streams and receivers by path, as those of programs have them: "stream.hall-mix.level",
// "receiver.mix.chosen". A block of a program that is called so goes first.
#pragma once
#include "engine/parameter.h"
#include "model/set_up.h"

namespace loom::project {

struct SoundValue {
    std::string path;         // within the device
    std::string label;        // "hall-mix · Level"
    engine::ParamSpec spec{}; // chosen: a choice of the receiver's streams
    double value = 0;
};
// Of all streams and receivers: level in dB, muted and inverted (0 or 1), and which stream a receiver hears, from 0.
std::vector<SoundValue> soundValues(const DeviceSound& sound);
// Error: there is no such value.
Result<SoundValue> soundValue(const DeviceSound& sound, const std::string& path);
// What a set-up ("stream ID" or "receiver ID") is when the value is set. Error: none such, or outside its range.
Result<std::pair<std::string, std::string>> withSoundValue(const DeviceSound& sound, const std::string& path,
                                                           double value);

} // namespace loom::project
