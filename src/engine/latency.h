// How much later than it came in sound leaves each place, beyond the delays that were asked for.
#pragma once
#include "engine/program.h"
#include <map>

namespace loom::engine {

struct Latency { // in samples, over all ways that lead there; 0, 0 where nothing arrives
    int least = 0, most = 0;
};

// By output port; for blocks without outputs by input port. Empty for a program with a loop. Blocks of unknown kind add
// nothing.
std::map<PortRef, Latency> latencies(const Program& program, double rate);
// The same for the sound of one source alone, through crossings that are open.
std::map<PortRef, Latency> latenciesFrom(const Program& program, const std::string& source, double rate);
// The longest at any destination, in samples.
int longestLatency(const Program& program, double rate);

// A block where one sound arrives over several ways that are not equally long: what leaves it sounds like a comb.
struct Meeting {
    std::string block;
    PortRef sound{};            // where it comes from
    std::map<int, int> ports{}; // inputs it arrives at, and how late since then, in samples
};
std::vector<Meeting> unevenMeetings(const Program& program, double rate);

} // namespace loom::engine
