// What passes ports of a device, kept for a moment for whoever asks for it again and again.
#pragma once
#include "engine/runner.h"
#include <map>

namespace loom::rig {

// All functions belong to one thread.
class PortTaps {
  public:
    static constexpr std::size_t most = 4;       // ports at once
    static constexpr double silentFor = 3;       // s that nobody asks; then it ends
    static constexpr std::size_t length = 48000; // samples that are held of each
    struct Heard {
        std::uint64_t begins = 0; // number of the first sample
        std::vector<float> samples{};
    };
    // Sound of a port from sample `after` on; what was asked for the first time begins with the next. now: s. Error:
    // there is nothing that passes it, or too many are listened to.
    Result<Heard> take(engine::Runner* runner, const engine::Resources& resources, const std::string& port, bool input,
                       std::uint64_t after, double now);
    // Gathers what came, and ends those that nobody asks for. A few times a second.
    void tend(engine::Runner* runner, double now);
    void forget() { taps_.clear(); } // another program runs

  private:
    struct Tap {
        int probe = -1; // of the runner; -1: a cable
        std::shared_ptr<engine::Cable> cable{};
        std::uint64_t read = 0; // samples of the cable that were taken
        std::uint64_t begins = 0;
        std::vector<float> held{};
        double asked = 0;
    };
    static void gather(engine::Runner* runner, Tap& tap);
    Result<Tap> tapAt(engine::Runner* runner, const engine::Resources& resources, const std::string& port, bool input);
    std::map<std::pair<std::string, bool>, Tap> taps_;
};

} // namespace loom::rig
