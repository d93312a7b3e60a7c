// Impulse responses of shoebox rooms whose walls, sources and receivers differ from octave to octave.
#pragma once
#include "acoustics/bands.h"
#include "acoustics/image_source.h"
#include <cstdint>

namespace loom::acoustics {

struct BandBox {
    Point size{10, 8, 3};              // m, all > 0
    std::array<Bands, 6> absorption{}; // of the walls x=0, x=L, y=0, y=W, floor, ceiling; 0..1
    Bands air{};                       // dB/m
    double speed = 343.2;              // of sound, m/s
};

// What a source sends and a receiver takes in a direction, as a factor for each octave; as PathGain.
using BandGain = std::function<Bands(const Point& leaving, const Point& coming)>;

// Pressure response from source to receiver, 1/r each, at `rate` samples a second, `length` samples long: the image
// sources of imageSourceResponse(), each with a gain for every octave. Between the middles of two octaves gains pass
// into each other with the square of a cosine over log f, without a phase of their own; below 63 Hz and above 8 kHz the
// outermost hold. Images from more than `nearMetres` away are placed between samples by 17 taps instead of 81.
std::vector<float> bandResponse(const BandBox& room, const Point& source, const Point& receiver, double rate,
                                int length, const BandGain& gain);
inline constexpr double nearMetres = 8;
// As if walls, source and receiver were at all frequencies what they are in one octave, and the air took nothing.
std::vector<float> octaveResponse(const BandBox& room, std::size_t band, const Point& source, const Point& receiver,
                                  double rate, int length, const PathGain& gain);

// Noise that has the given octave levels, dB against 1 (r.m.s.), over `length` samples (a power of two) and goes on
// from its end into its beginning. `seed`: another noise of the same kind.
std::vector<float> bandNoise(const Bands& levels, double rate, std::size_t length, std::uint64_t seed);

} // namespace loom::acoustics
