// Predictions at many places at once, on worker threads.
#pragma once
#include "acoustics/field.h"
#include <atomic>
#include <functional>
#include <stop_token>

namespace loom::acoustics {

// What the places of a map know of one another and of the work.
struct Progress {
    std::atomic<std::size_t> done{0};
    std::size_t all = 0;
};

// The values at all places, in their order; nothing if it was stopped. Any thread; uses up to `threads` of its own.
std::vector<Prediction::Value> mapOf(const Prediction& prediction, const std::vector<Point>& places,
                                     std::stop_token stop = {}, Progress* progress = nullptr, unsigned threads = 2);

// How even levels are: the widest deviation from their mean (of dB values), and what share lies within +-3 dB of it.
struct Evenness {
    double mean = 0, least = 0, most = 0, within3 = 0; // dB, dB, dB, 0..1
};
Evenness evennessOf(const std::vector<double>& levels);

} // namespace loom::acoustics
