// Static curves and level followers of compressors, expanders and their kin.
#pragma once
#include "dsp/units.h"

namespace loom::dsp {

// Gain in dB for a level in dB. Soft knee: quadratic over `kneeDb`, continuous in value and slope.
// Source: D. Giannoulis, M. Massberg, J. Reiss, "Digital Dynamic Range Compressor Design", J. Audio Eng. Soc. 60
// (2012), eq. 4. Above the threshold the output rises by 1/ratio dB a dB. ratio >= 1, kneeDb >= 0.
double compressorGainDb(double levelDb, double thresholdDb, double ratio, double kneeDb);
// Below the threshold the output falls by `ratio` dB a dB, but never by more than rangeDb (>= 0) altogether.
double expanderGainDb(double levelDb, double thresholdDb, double ratio, double kneeDb, double rangeDb);

// One-pole coefficient that reaches 1 - 1/e after `seconds` when applied `perSecond` times a second.
double onePole(double seconds, double perSecond);

// Smooths gain in dB: falls with `down`, rises with `up`, after holding (decoupled smooth peak detector of the same
// paper).
struct GainSmoother {
    double gainDb = 0;
    double step(double wantDb, double down, double up) {
        gainDb += (wantDb < gainDb ? down : up) * (wantDb - gainDb);
        return gainDb;
    }
};

} // namespace loom::dsp
