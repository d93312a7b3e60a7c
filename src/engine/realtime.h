// A thread that runs a Runner at the pace of the clock, for computers and simulated devices without an audio card.
#pragma once
#include "engine/runner.h"
#include <thread>

namespace loom::engine {

// Runs from construction to destruction, with real-time priority where that is granted. `missed` counts the times it
// came more than 10 ms too late.
class RealtimeThread {
  public:
    explicit RealtimeThread(Runner& runner);
    ~RealtimeThread();
    int missed() const { return missed_.load(); }

  private:
    void run();
    Runner& runner_;
    std::atomic<bool> stop_{false};
    std::atomic<int> missed_{0};
    std::thread thread_;
};

} // namespace loom::engine
