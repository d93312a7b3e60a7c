// PINs as people and programs give them: whether one is right, and how long whoever tried wrong ones waits.
#pragma once
#include "engine/result.h"
#include "rig/guesses.h"
#include <functional>

namespace loom::rig {

// One thread.
class PinGate {
  public:
    // wrong: somebody tried one that is not right; may be empty.
    explicit PinGate(std::function<double()> clock, std::function<void(const std::string& source)> wrong)
        : clock_(std::move(clock)), wrong_(std::move(wrong)) {}
    // print: site::pinPrint() of the right one; source: who tries, such as an address. Error: it is wrong, or too many
    // were tried.
    Result<Done> admit(const std::string& role, const std::string& print, const std::string& pin,
                       const std::string& source);

  private:
    std::function<double()> clock_;
    std::function<void(const std::string& source)> wrong_;
    Guesses guesses_;
    // Those that were right, by print and who gave them: work for one is done once. Whoever gives a wrong one is
    // forgotten.
    std::map<std::pair<std::string, std::string>, std::string> right_{};
};

} // namespace loom::rig
