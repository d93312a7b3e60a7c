#include "acoustics/map.h"
#include "dsp/dispatch.h"
#include <algorithm>
#include <cmath>
#include <thread>

namespace loom::acoustics {

std::vector<Prediction::Value> mapOf(const Prediction& prediction, const std::vector<Point>& places,
                                     std::stop_token stop, Progress* progress, unsigned threads) {
    std::vector<Prediction::Value> values(places.size());
    if (progress)
        progress->all = places.size();
    std::atomic<std::size_t> next{0};
    constexpr std::size_t piece = 64;
    const auto work = [&] {
        dsp::freshRegisters();
        for (std::size_t from; !stop.stop_requested() && (from = next.fetch_add(piece)) < places.size();) {
            const std::size_t to = std::min(from + piece, places.size());
            for (std::size_t i = from; i < to; ++i)
                values[i] = prediction.at(places[i]);
            if (progress)
                progress->done += to - from;
        }
    };
    {
        std::vector<std::jthread> helpers;
        for (unsigned t = 1; t < threads && places.size() > piece; ++t)
            helpers.emplace_back(work);
        work();
    }
    return stop.stop_requested() ? std::vector<Prediction::Value>{} : values;
}

Evenness evennessOf(const std::vector<double>& levels) {
    Evenness e;
    if (levels.empty())
        return e;
    e.least = *std::min_element(levels.begin(), levels.end());
    e.most = *std::max_element(levels.begin(), levels.end());
    for (const double l : levels)
        e.mean += l / static_cast<double>(levels.size());
    const auto near = std::count_if(levels.begin(), levels.end(), [&](double l) { return std::abs(l - e.mean) <= 3; });
    e.within3 = static_cast<double>(near) / static_cast<double>(levels.size());
    return e;
}

} // namespace loom::acoustics
