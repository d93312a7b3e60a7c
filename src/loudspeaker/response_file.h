// Measured or published responses of loudspeakers: lines of "frequency, dB, degrees".
#pragma once
#include "dsp/units.h"
#include "engine/result.h"
#include <string>
#include <vector>

namespace loom::loudspeaker {

struct ResponseFile {
    std::vector<double> hz, db, deg; // rising frequencies; deg is unwrapped
    bool hasPhase = true;
    std::vector<std::string> notes; // what was put right, and gaps
    // Between its points: level straight over the octaves, phase likewise. Beyond its ends the level falls by 24 dB an
    // octave and the phase stays, so that nothing is claimed there.
    dsp::Complex at(double f) const;
    bool covers(double f) const { return !hz.empty() && f >= hz.front() && f <= hz.back(); }
};

inline constexpr std::size_t maxResponseBytes = 8u << 20, maxResponsePoints = 100000;
// Numbers may be parted by blanks, tabs, commas or semicolons; lines that begin with anything else than a number are
// remarks. Two columns: no phase. Points out of order are sorted, of several at one frequency the first counts; both
// are noted, as are gaps of more than an octave. Error: fewer than two points, a value that cannot be (with its
// line), too large.
Result<ResponseFile> readResponse(const std::string& text, const std::string& name);

} // namespace loom::loudspeaker
