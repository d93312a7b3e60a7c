// Complex response from any place of a program to any other, as it is set now.
#pragma once
#include "dsp/units.h"
#include "engine/kernel.h"
#include "engine/program.h"
#include "engine/result.h"

namespace loom::engine {

// A response as loomctl prints it: level in dB (silenceDb where nothing passes) and phase in degrees, -180..180.
struct ResponseTable {
    std::vector<double> hz, db, deg;
};
ResponseTable tabulate(const std::vector<double>& hz, const std::vector<dsp::Complex>& h);

// From one input of a block to one of its outputs, at each frequency; a block of unknown kind passes nothing. Taps of
// filters are looked for in `resources`; without them such a filter passes sound on as it is.
std::vector<dsp::Complex> blockResponse(const Block& block, int in, int out, const std::vector<double>& hz, double rate,
                                        const Resources& resources = {});

// From the sound that leaves `from` (a source, or any block's output) to what leaves `to` (what arrives, for a block
// without outputs). Paths that join are summed as complex numbers. Error: no such port, or a loop.
Result<std::vector<dsp::Complex>> pathResponse(const Program& program, const PortRef& from, const PortRef& to,
                                               const std::vector<double>& hz, double rate,
                                               const Resources& resources = {});

} // namespace loom::engine
