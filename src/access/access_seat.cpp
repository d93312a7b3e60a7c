#include "access/access_seat.h"
#include <algorithm>

namespace loom::project {

AccessAnswer AccessSeat::ask(const AccessAsk& ask, double now) {
    using Verb = AccessAsk::Verb;
    AccessAnswer a;
    if (now - second_ >= 1)
        second_ = now, asked_ = 0;
    // A list is as much as many questions.
    asked_ += ask.verb == Verb::list ? 1 + static_cast<int>(host_.items().size()) / 20 : 1;
    if (asked_ > mostAsked) {
        a.is = AccessAnswer::Is::refused;
        a.why = AccessAnswer::Why::often;
        a.error = {"asks more than 400 times a second", "", "Watch what is to be known."};
        return a;
    }
    if (ask.verb != Verb::watch && ask.verb != Verb::ignore) {
        a = host_.ask(ask, caller_);
        if (a.is == AccessAnswer::Is::value && (all_ || watched_.count(ask.name)))
            told_[ask.name] = a.value; // it knows
        return a;
    }
    const bool watch = ask.verb == Verb::watch;
    if (ask.name == accessAll) {
        all_ = watch;
        watched_.clear();
        told_.clear();
        return a;
    }
    const auto* item = host_.find(ask.name);
    if (!item || !host_.isFor(*item, caller_)) // says why not
        return host_.ask({Verb::get, ask.name, {}}, caller_);
    if (watch)
        watched_.insert(ask.name);
    else
        watched_.erase(ask.name);
    told_.erase(ask.name);
    return a;
}

std::vector<AccessSeat::Told> AccessSeat::changed(const std::vector<std::optional<double>>& values) {
    std::vector<Told> out;
    if (!all_ && watched_.empty())
        return out;
    const auto& items = host_.items();
    for (std::size_t i = 0; i < items.size() && i < values.size(); ++i) {
        const auto& one = items[i];
        if (one.signal.pulse || (!all_ && !watched_.count(one.allowed.name)) || !host_.isFor(one, caller_))
            continue;
        const auto [it, fresh] = told_.try_emplace(one.allowed.name, values[i]);
        if (!fresh && it->second == values[i])
            continue;
        it->second = values[i];
        out.push_back({&one, values[i]});
    }
    return out;
}

std::string accessRefusal(const Error& error) {
    auto text = error.text();
    std::replace_if(
        text.begin(), text.end(), [](unsigned char c) { return c < 32 || c == 127; }, ' ');
    return text;
}

} // namespace loom::project
