// Control from outside in OSC 1.0: "/hall/level" with an argument sets it, without one asks for it. OSC knows no PIN:
// what asks for one is not there. docs/control.md says more.
#pragma once
#include "access/access_host.h"
#include "outside/osc.h"

namespace loom::project {

class OscDoor {
  public:
    static constexpr int mostMessages = 2000; // within a second, of everybody; more are not looked at
    static constexpr double againEvery = 10;  // s after which everything is told anew: packets may be lost
    explicit OscDoor(AccessHost& host) : host_(host) {}

    // What a packet asks, done; what whoever sent it is told.
    std::vector<OscMessage> received(std::string_view packet, const std::string& source, double now);
    // What everybody is told who listens: changes, and now and then all. `values` are those of the host's items.
    std::vector<OscMessage> tell(const std::vector<std::optional<double>>& values, double now);
    // How many messages were not understood, refused, or too many; since the last time it was asked.
    struct Odd {
        int count = 0;
        std::string first{}; // what was wrong with the first
    };
    Odd takeOdd();

  private:
    void one(const OscMessage& message, const std::string& source, std::vector<OscMessage>& answers);
    void odd(const std::string& what);
    AccessHost& host_;
    std::map<std::string, double> told_{};
    double second_ = -1e9, toldAll_ = -1e9;
    int messages_ = 0;
    Odd odd_{};
};

} // namespace loom::project
