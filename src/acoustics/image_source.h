// Impulse responses of shoebox rooms by image sources.
#pragma once
#include "acoustics/directivity.h"
#include <array>
#include <functional>
#include <vector>

namespace loom::acoustics {

struct Shoebox {
    Point size{10, 8, 3};                                     // length, width, height in m, all > 0
    std::array<double, 6> absorption{.2, .2, .2, .2, .2, .2}; // of the walls x=0, x=L, y=0, y=W, floor, ceiling; 0..1
};

// Absorption, the same on all walls, that gives a reverberation time by Eyring's formula
// (C. F. Eyring, J. Acoust. Soc. Am. 1, 1930): T = 0.161 V / (-S ln(1 - a)). seconds > 0; at most 0.99.
double absorptionForReverberation(const Point& size, double seconds);

// What a source sends and a receiver takes in a direction, as a factor: the way the sound leaves the source, and the
// way it travels when it comes to the receiver.
using PathGain = std::function<double(const Point& leaving, const Point& coming)>;

// Pressure response from source to receiver, 1/(4 pi r) each, at `rate` samples a second, `length` samples long.
// J. Allen, D. Berkley, "Image method for efficiently simulating small-room acoustics", J. Acoust. Soc. Am. 65, 1979;
// each image is placed between samples by an 81-tap Hann-windowed sinc (P. Peterson, 1986). Points must lie inside.
std::vector<float> imageSourceResponse(const Shoebox& room, const Point& source, const Point& receiver, double rate,
                                       int length, double speedOfSound = 343.2, const PathGain& gain = {});

} // namespace loom::acoustics
