// How often a password may be tried at one device, and how long whoever tried it wrongly has to wait.
#pragma once
#include <map>
#include <string>

namespace loom::rig {

// Times are seconds on any clock that does not go back. A try counts when it begins: one that is never ended told
// whoever made it as much as one that was wrong.
class Guesses {
  public:
    static constexpr int free = 5, freeOfStrangers = 20; // before the first pause
    static constexpr double firstPause = 30, longestPause = 900, forgottenAfter = 3600;
    static constexpr std::size_t mostSources = 256;
    // Seconds to wait, rounded up; 0: it may be tried now, and was counted. source: who tries, such as an address.
    // known: a computer that has known the password before. What strangers do holds it up in no case.
    int begin(const std::string& source, bool known, double now);
    // The last one of this source was right.
    void right(const std::string& source, bool known);

  private:
    struct Count {
        int wrong = 0;
        double until = 0, last = 0;
        int wait(double now) const;
        void another(int allowed, double now);
    };
    std::map<std::string, Count> sources_{};
    Count strangers_{};
};

} // namespace loom::rig
