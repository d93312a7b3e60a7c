// Background noise by curve.
#pragma once
#include "acoustics/bands.h"

namespace loom::acoustics {

// Octave band levels of noise criterion NC, 15..65, between the published curves by straight lines
// (L. Beranek, Noise Control 3, 1957; ANSI S12.2).
Bands noiseCriterion(double nc);
// Octave band levels of noise rating NR, 0..130: a + b NR (ISO/R 1996:1971, annex).
Bands noiseRating(double nr);

} // namespace loom::acoustics
