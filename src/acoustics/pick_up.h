// How well a microphone hears a talker in a room.
#pragma once
#include "acoustics/directivity.h"
#include "acoustics/reverberation.h"

namespace loom::acoustics {

struct PickUp {
    double toNoise = 0;       // direct sound over noise, dB, both A-weighted
    double toReverberant = 0; // direct over reverberant sound, dB, speech weighted with A
    double distance = 0;      // m
};

// A talker's octave levels at 1 m (dB SPL, the same all round) at a microphone that looks at it: direct sound falls
// with 20 lg r; a directivity factor of Q takes 10 lg Q off what comes from all sides (H. Kuttruff, Room
// Acoustics, 5.6).
PickUp pickUp(const Point& microphone, const Bands& factor, const Point& talker, const Bands& level,
              const Reverberation& room, const Bands& noise);

// Octave levels at 1 m of a talker whose A-weighted level there is given (60: normal effort; IEC 60268-16).
Bands speechAt(double aWeightedLevel);

} // namespace loom::acoustics
