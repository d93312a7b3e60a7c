#include "rig/guesses.h"
#include <algorithm>
#include <cmath>

namespace loom::rig {

int Guesses::Count::wait(double now) const {
    return now < until ? static_cast<int>(std::ceil(until - now)) : 0;
}

void Guesses::Count::another(int allowed, double now) {
    ++wrong;
    last = now;
    if (wrong >= allowed)
        until = now + std::min(firstPause * std::pow(2.0, std::min(wrong - allowed, 10)), longestPause);
}

int Guesses::begin(const std::string& source, bool known, double now) {
    std::erase_if(sources_, [now](const auto& s) { return now - s.second.last > forgottenAfter; });
    if (now - strangers_.last > forgottenAfter)
        strangers_ = {};
    const std::string key = (known ? "known " : "") + source;
    const auto it = sources_.find(key);
    int wait = it == sources_.end() ? 0 : it->second.wait(now);
    if (!known)
        wait = std::max(wait, strangers_.wait(now));
    if (wait > 0)
        return wait;
    if (it == sources_.end() &&
        sources_.size() >= mostSources) // whoever was quiet for longest; strangers_ still counts
        sources_.erase(std::min_element(sources_.begin(), sources_.end(),
                                        [](const auto& a, const auto& b) { return a.second.last < b.second.last; }));
    sources_[key].another(free, now);
    if (!known)
        strangers_.another(freeOfStrangers, now);
    return 0;
}

void Guesses::right(const std::string& source, bool known) {
    const auto it = sources_.find((known ? "known " : "") + source);
    if (it == sources_.end())
        return;
    if (!known) {
        strangers_.wrong = std::max(0, strangers_.wrong - it->second.wrong);
        if (strangers_.wrong < freeOfStrangers)
            strangers_.until = 0;
    }
    sources_.erase(it);
}

} // namespace loom::rig
