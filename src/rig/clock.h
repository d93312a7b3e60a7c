// The time that devices of the rig count. Tests step it by hand.
#pragma once
#include <atomic>
#include <chrono>
#include <cstdint>

namespace loom::rig {

namespace detail {
inline std::atomic<double> drivenSeconds{-1};
inline std::atomic<std::int64_t> drivenUtc{0};
} // namespace detail

// Seconds since some moment before the program began; never goes back.
inline double secondsNow() {
    const double driven = detail::drivenSeconds.load(std::memory_order_relaxed);
    return driven >= 0 ? driven
                       : std::chrono::duration<double>(std::chrono::steady_clock::now().time_since_epoch()).count();
}

// Milliseconds of UTC since 1970, as time servers tell them.
inline std::int64_t utcMillis() {
    return detail::drivenSeconds.load(std::memory_order_relaxed) >= 0
               ? detail::drivenUtc.load(std::memory_order_relaxed)
               : std::chrono::duration_cast<std::chrono::milliseconds>(
                     std::chrono::system_clock::now().time_since_epoch())
                     .count();
}

// From now on it is this time, until it is told again. seconds below 0: it runs by itself once more.
inline void driveClock(double seconds, std::int64_t utc) {
    detail::drivenUtc.store(utc);
    detail::drivenSeconds.store(seconds);
}

} // namespace loom::rig
