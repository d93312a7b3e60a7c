// Bells that bring a response to a target, and delays that bring ways together.
#pragma once
#include "dsp/section.h"
#include <span>
#include <stop_token>
#include <vector>

namespace loom::loudspeaker {

struct Bell {
    dsp::BellKind kind = dsp::BellKind::bell;
    double hz = 1000, gainDb = 0, q = 1;
};

struct FitRange {
    double fromHz = 100, toHz = 10000;
    int bells = 8;                    // at most, 1 to 16
    double mostUp = 6, mostDown = 15; // dB
    double leastQ = 0.4, mostQ = 8;
    double rate = 48000;
};

struct Fit {
    std::vector<Bell> bells;
    double levelDb = 0;           // to be added to the whole, so that the mean is right
    double before = 0, after = 0; // r.m.s. deviation from the target in the range, dB; means taken off
};

// Bells (at most as many as the range says) and a level so that response + bells + level comes near the target, in dB,
// over the octaves of the range: 24 points an octave. A bell at a time is put where the deviation is largest, then all
// are moved together by damped least squares (D. Marquardt, J. SIAM 11, 1963), with a mild preference for small gains.
// It ends when another bell takes off less than 0.02 dB r.m.s., or when stopped. `hz` rises; all three are as long.
Fit fitBells(std::span<const double> hz, std::span<const double> responseDb, std::span<const double> targetDb,
             const FitRange& range, const std::stop_token& stop = {});
double bellsDb(std::span<const Bell> bells, double hz, double rate);

struct Alignment {
    double delayMs = 0;    // of the second way; negative: of the first
    bool inverted = false; // the second way turned round
    double gainedDb = 0;   // mean level of the sum where both sound, against before
};
// Two ways as they sound together: the delay within +-mostMs, and the polarity, with which their sum is strongest where
// both are within 12 dB of each other. Upside down only if that is 0.2 dB better. `hz` rises; at least two points.
Alignment alignWays(std::span<const double> hz, std::span<const dsp::Complex> first,
                    std::span<const dsp::Complex> second, double mostMs);

} // namespace loom::loudspeaker
