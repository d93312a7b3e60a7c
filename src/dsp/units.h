// Small conversions everybody needs. Units are in the names.
#pragma once
#include <cmath>
#include <complex>

namespace loom::dsp {

using Complex = std::complex<double>;
inline constexpr double pi = 3.14159265358979323846;
inline constexpr double silenceDb = -200.0; // what a level of exactly zero is shown as

inline double gainFromDb(double db) {
    return std::pow(10.0, db / 20.0);
}
inline double dbFromGain(double gain) {
    return gain > 1e-10 ? 20.0 * std::log10(gain) : silenceDb;
}
inline double dbFromPower(double power) {
    return power > 1e-20 ? 10.0 * std::log10(power) : silenceDb;
}

// Bandwidth in octaves of a bell of quality q: BW = (2/ln 2) asinh(1/(2q)). Bristow-Johnson, Audio EQ Cookbook.
inline double octavesFromQ(double q) {
    return 2.0 / std::log(2.0) * std::asinh(1.0 / (2.0 * q));
}
inline double qFromOctaves(double octaves) {
    return 1.0 / (2.0 * std::sinh(std::log(2.0) / 2.0 * octaves));
}

// Speed of sound in dry air in m/s at a temperature in degrees Celsius (ISO 9613-1: 343.2 m/s at 293.15 K).
inline double speedOfSound(double celsius) {
    return 343.2 * std::sqrt((celsius + 273.15) / 293.15);
}
inline constexpr double metresPerFoot = 0.3048;

} // namespace loom::dsp
