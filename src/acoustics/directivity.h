// How a loudspeaker's level falls to the sides, and how a microphone's does.
#pragma once
#include "acoustics/bands.h"
#include <array>

namespace loom::acoustics {

using Point = std::array<double, 3>; // metres
inline Point operator-(const Point& a, const Point& b) {
    return {a[0] - b[0], a[1] - b[1], a[2] - b[2]};
}
double lengthOf(const Point& p);
// Unit vector: turn in degrees from the x axis towards y, tilt in degrees up from the horizontal (-90: down).
Point direction(double turnDeg, double tiltDeg);

// An axis in space and the two directions across it, all of unit length.
struct Aim {
    Point axis{0, 0, -1}, side{1, 0, 0}, up{0, 1, 0};
};
Aim aimed(double turnDeg, double tiltDeg);

// Coverage angles per octave, degrees between the directions that are 6 dB down; 360 or more: the same all round.
// Between axis and edge the level falls with the square of the angle, -6 ((h / (H/2))^2 + (v / (V/2))^2) dB, and
// nowhere below `back` (a smooth stand-in for measured balloons; what falls between the listed angles is a guess).
class Directivity {
  public:
    Directivity() : Directivity(filled(360), filled(360)) {}
    Directivity(const Bands& horizontal, const Bands& vertical, double back = -25);
    // Level against the axis, dB, towards `to` seen from the loudspeaker (any length > 0).
    Bands towards(const Aim& aim, const Point& to) const;
    // Directivity factor Q per band: 4 pi over the integral of the level over all directions.
    const Bands& factor() const { return factor_; }
    Bands index() const; // 10 lg Q

  private:
    Bands perSquareH_{}, perSquareV_{}, factor_{};
    double back_;
};

// First-order microphone a + (1 - a) cos: omnidirectional 1, cardioid 0.5, hypercardioid 0.25. What it takes at an
// angle from its axis whose cosine is given, as a factor of at least 0.01; its level there in dB, by degrees; and its
// directivity factor 1 / (a^2 + (1 - a)^2 / 3).
double microphoneTakes(double a, double cosine);
double microphoneLevel(double a, double degrees);
double microphoneFactor(double a);

} // namespace loom::acoustics
