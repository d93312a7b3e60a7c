// The time that devices of the rig count.
#pragma once
#include <chrono>

namespace loom::rig {

// Seconds since some moment before the program began; never goes back.
inline double secondsNow() {
    return std::chrono::duration<double>(std::chrono::steady_clock::now().time_since_epoch()).count();
}

} // namespace loom::rig
