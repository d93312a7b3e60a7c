// Which ways of sound between devices are encrypted, which are not, and which cannot be.
#pragma once
#include "voicings/room_sound.h"
#include <map>
#include <optional>
#include <string>
#include <vector>

namespace loom::site {

struct SoundLink {
    enum class How { encrypted, open, broken, cable, unknown };
    project::Lead lead{};
    How how = How::unknown;
};

// What is known of a device's key: nothing (it cannot be asked), "" (it has none), or its print.
using KeyPrints = std::map<std::string, std::string>;

// All leads of the project, those over the network first. Sound passes where both ends have the same key, or neither
// has one; otherwise the link is broken.
std::vector<SoundLink> soundLinks(const project::Project& project, const KeyPrints& prints);
std::string wordOf(SoundLink::How how); // "encrypted", "open", "silent: the keys differ", "a cable", "not known"

// Devices that are on site but send and receive no sound over the network: a key does nothing for them.
std::vector<std::string> withoutSound(const project::Project& project);

} // namespace loom::site
