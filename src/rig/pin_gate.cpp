#include "rig/pin_gate.h"
#include "site/pin.h"

namespace loom::rig {

Result<Done> PinGate::admit(const std::string& role, const std::string& print, const std::string& pin,
                            const std::string& source) {
    // Nobody may try on what somebody else knows: else it would be told by being let in while others have to wait.
    if (const auto it = right_.find({print, source}); it != right_.end()) {
        if (it->second == pin)
            return Done{};
        right_.erase(it);
    }
    if (const int wait = guesses_.begin(source, false, clock_()); wait > 0)
        return Error{"too many wrong PINs", role, "Try again in " + std::to_string(wait) + " s."};
    if (!site::isPin(print, pin)) {
        if (wrong_)
            wrong_(source);
        return Error{"that PIN is wrong", role, ""};
    }
    guesses_.right(source, false);
    if (right_.size() >= Guesses::mostSources)
        right_.clear();
    right_[{print, source}] = pin;
    return Done{};
}

} // namespace loom::rig
