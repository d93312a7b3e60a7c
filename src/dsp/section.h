// Second-order filter sections: the coefficients, their response, the equaliser's designs and the running filter.
#pragma once
#include "dsp/units.h"

namespace loom::dsp {

// H(z) = (b0 + b1/z + b2/z^2) / (1 + a1/z + a2/z^2). The default passes everything unchanged.
struct Section {
    double b0 = 1, b1 = 0, b2 = 0, a1 = 0, a2 = 0;
    bool operator==(const Section&) const = default;
};

// Value of H at a frequency; hz in 0..rate/2.
Complex response(const Section& s, double hz, double rate);

enum class BellKind { bell, lowShelf, highShelf, notch, allPass };

// Designs one equaliser band. hz in (0, rate/2), q > 0, gainDb used by bell and shelves only.
// Source: R. Bristow-Johnson, Audio EQ Cookbook (shelves in their Q form).
Section designBand(BellKind kind, double hz, double gainDb, double q, double rate);

// One running section, transposed direct form II, double state: its noise stays under -140 dB at 20 Hz.
struct SectionState {
    double z1 = 0, z2 = 0;
    [[gnu::always_inline]] double step(const Section& c, double x) {
        const double y = c.b0 * x + z1;
        z1 = (c.b1 * x + z2) - c.a1 * y; // in this order the feedback waits for two operations only
        z2 = c.b2 * x - c.a2 * y;
        return y;
    }
};

} // namespace loom::dsp
