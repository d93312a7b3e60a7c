// Air: speed of sound and what it takes from a sound on its way.
#pragma once
#include "acoustics/bands.h"

namespace loom::acoustics {

struct Air {
    double celsius = 20;  // -20..50
    double humidity = 50; // relative, percent, 10..100
    double kPa = 101.325; // pressure
};

// Metres a second: 331.3 sqrt(1 + t / 273.15) (ideal gas; ISO 9613-1, annex).
double speedOfSound(const Air& air = {});
// Attenuation in dB/m of a pure tone (ISO 9613-1:1993, equations 3 to 5).
double airAttenuation(double hz, const Air& air = {});
// The same at the middles of the octave bands.
Bands airAttenuation(const Air& air = {});

} // namespace loom::acoustics
