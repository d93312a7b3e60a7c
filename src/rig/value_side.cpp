#include "rig/value_side.h"
#include <algorithm>

namespace loom::rig {

ValueSide::ValueSide(std::string serial, std::function<double()> clock,
                     std::function<void(const std::string& what, bool bad)> note)
    : clock_(std::move(clock)), link_(std::move(serial)) {
    link_.read = [this](const std::string& path) -> std::optional<double> {
        const auto* one = own(path);
        return one && one->read ? one->read() : std::nullopt;
    };
    link_.line = [this](const std::string& path) {
        const auto* one = own(path);
        return one && one->line ? one->line() : std::string();
    };
    // Nothing but what a surface or a rule may do.
    link_.taken = [this](const std::string& path, double value, const std::string& who) {
        const auto* one = own(path);
        return one && one->set && one->set(std::clamp(value, one->low, one->high), who);
    };
    link_.called = [this](const std::string& path, const std::string& does, const std::string& text) {
        if (const auto* one = own(path); one && one->call)
            one->call(does, text);
    };
    link_.gaveUp = [note = std::move(note)](const std::string& path) {
        note(path + " could not be set: its device does not answer.", true);
    };
}

const ValueSide::Own* ValueSide::own(const std::string& path) const {
    const auto it = own_.find(path);
    return it == own_.end() ? nullptr : &it->second;
}

void ValueSide::told(Whose whose, Needs needs) {
    needs_[static_cast<std::size_t>(whose)] = std::move(needs);
    std::set<std::string> ids, wanted;
    own_.clear();
    for (const auto& one : needs_) {
        ids.insert(one.ids.begin(), one.ids.end());
        wanted.insert(one.wanted.begin(), one.wanted.end());
        for (const auto& [path, own] : one.own) {
            const auto [it, fresh] = own_.try_emplace(path, own);
            if (fresh)
                continue;
            auto& both = it->second;
            if (own.set) {
                both.low = both.set ? std::min(both.low, own.low) : own.low;
                both.high = both.set ? std::max(both.high, own.high) : own.high;
                both.set = both.set ? both.set : own.set;
            }
            both.line = both.line ? both.line : own.line;
            both.call = both.call ? both.call : own.call;
        }
    }
    link_.be(ids);
    link_.want(wanted);
}

bool ValueSide::speaks() const {
    return std::any_of(needs_.begin(), needs_.end(),
                       [](const Needs& n) { return !n.wanted.empty() || !n.own.empty() || !n.ids.empty(); });
}

} // namespace loom::rig
