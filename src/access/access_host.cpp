#include "access/access_host.h"
#include "dsp/number.h"
#include <algorithm>
#include <cmath>

namespace loom::project {
namespace {

using Verb = AccessAsk::Verb;
using Why = AccessAnswer::Why;

AccessAnswer refused(Why why, Error error) {
    AccessAnswer a;
    a.is = AccessAnswer::Is::refused;
    a.why = why;
    a.error = std::move(error);
    return a;
}

constexpr std::size_t longestNumber = 40;
constexpr AccessVerb verbs[] = {{"list", Verb::list, 0},   {"get", Verb::get, 1},       {"set", Verb::set, 2},
                                {"step", Verb::step, 2},   {"toggle", Verb::toggle, 1}, {"give", Verb::give, 1},
                                {"watch", Verb::watch, 1}, {"ignore", Verb::ignore, 1}, {"pin", Verb::pin, 2},
                                {"leave", Verb::leave, 0}};

} // namespace

const AccessVerb* accessVerb(const std::string& word) {
    const auto* it = std::find_if(std::begin(verbs), std::end(verbs), [&](const auto& v) { return word == v.word; });
    return it == std::end(verbs) ? nullptr : it;
}

std::string accessText(const AccessItem& item, std::optional<double> value) {
    return value ? plainValue(item.signal, *value) : std::string("unknown");
}

void AccessHost::serve(const Project& p, const Access& access) {
    items_.clear(), byName_.clear();
    ++generation_;
    for (const auto& a : access.allowed) {
        const auto s = signalOf(p, a.signal);
        if (!s || !isAccessName(a.name) || !byName_.emplace(a.name, items_.size()).second)
            continue;
        AccessItem one{a, *s, s->spec.min, s->spec.max};
        const double low = std::max(a.low.value_or(one.low), one.low),
                     high = std::min(a.high.value_or(one.high), one.high);
        if (low < high) // one that lies outside the signal's is none
            one.low = low, one.high = high;
        one.allowed.sets = a.sets && canBeSet(*s);
        items_.push_back(std::move(one));
    }
}

const AccessItem* AccessHost::find(const std::string& name) const {
    const auto it = byName_.find(name);
    return it == byName_.end() ? nullptr : &items_[it->second];
}

bool AccessHost::isFor(const AccessItem& item, const Caller& caller) const {
    return item.allowed.role.empty() || (caller.since == pins_ && caller.roles.count(item.allowed.role) > 0);
}

std::optional<double> AccessHost::now(const AccessItem& item) const {
    return item.signal.pulse ? std::nullopt : owner_.now(item.signal.path);
}

AccessAnswer AccessHost::value(const AccessItem& item) const {
    AccessAnswer a;
    a.is = AccessAnswer::Is::value;
    a.item = &item;
    a.value = now(item);
    return a;
}

AccessAnswer AccessHost::put(const AccessItem& item, double v, const Caller& caller) {
    if (!owner_.set(item.signal.path, v, "Control from outside (" + caller.source + ")"))
        return refused(Why::away, {"it cannot be set now", item.allowed.name, "Try again."});
    return value(item);
}

// "dial 2041", "answer", "hang up", "keys 12#".
AccessAnswer AccessHost::call(const AccessItem& item, const AccessAsk& ask, const Caller& caller) {
    if (ask.verb != Verb::set)
        return refused(Why::denied, {"is a telephone line", ask.name, "Set it to what it shall do, as in dial 2041."});
    const auto space = std::min(ask.value.find(' '), ask.value.size());
    auto does = ask.value.substr(0, space);
    auto number = ask.value.substr(std::min(space + 1, ask.value.size()));
    if (does == "hang" && number == "up")
        does = "hang-up", number.clear();
    std::erase(number, ' ');
    const bool numbered = does == "dial" || does == "keys";
    const auto* digits = does == "dial" ? "+0123456789*#" : "0123456789*#";
    if ((!numbered && does != "answer" && does != "hang-up") || numbered == number.empty() ||
        number.size() > longestNumber || number.find_first_not_of(digits) != std::string::npos)
        return refused(Why::wrong, {"\"" + ask.value.substr(0, 60) + "\" is nothing that a telephone line does",
                                    ask.name, "dial 2041, answer, hang up, or keys 12#."});
    if (const auto done = owner_.call(item.signal.path, does, number, "Control from outside (" + caller.source + ")");
        !done)
        return refused(Why::away, {done.error().message, ask.name, done.error().remedy});
    return value(item);
}

AccessAnswer AccessHost::ask(const AccessAsk& ask, Caller& caller) {
    if (ask.verb == Verb::list) {
        AccessAnswer a;
        a.is = AccessAnswer::Is::list;
        for (const auto& one : items_)
            if (isFor(one, caller))
                a.list.push_back(&one);
        return a;
    }
    if (ask.verb == Verb::leave) {
        caller.roles.clear();
        return {};
    }
    if (ask.verb == Verb::pin) {
        if (std::none_of(items_.begin(), items_.end(),
                         [&](const auto& i) { return !ask.name.empty() && i.allowed.role == ask.name; }))
            return refused(Why::unknown, {"there is no such role", ask.name.substr(0, 60), ""});
        if (const auto done = owner_.admit(ask.name, ask.value, caller.source); !done)
            return refused(Why::pin, done.error());
        if (caller.since != pins_)
            caller.roles.clear();
        caller.since = pins_;
        caller.roles.insert(ask.name);
        return {};
    }
    const auto* item = find(ask.name);
    if (!item)
        return refused(Why::unknown, {"there is nothing of that name", ask.name.substr(0, 80), "Ask for the list."});
    if (!isFor(*item, caller))
        return refused(Why::pin, {"asks for the PIN of " + item->allowed.role, ask.name, ""});
    if (ask.verb == Verb::get)
        return item->signal.pulse ? refused(Why::denied, {"is a moment and has no value", ask.name, "It can be given."})
                                  : value(*item);
    if (!item->allowed.sets)
        return refused(Why::denied, {"may not be set from outside", ask.name, ""});
    if (ask.verb == Verb::give) {
        if (!item->signal.pulse)
            return refused(Why::denied, {"is a value and no moment", ask.name, "Set it."});
        if (!owner_.give(item->signal.path))
            return refused(Why::away, {"nobody takes it", ask.name, "No rule and no scene waits for it there."});
        return {};
    }
    if (item->signal.pulse)
        return refused(Why::denied, {"is a moment and has no value", ask.name, "Give it."});
    if (isLine(item->signal))
        return call(*item, ask, caller);
    const auto range =
        "It lies from " + valueText(item->signal, item->low) + " to " + valueText(item->signal, item->high) + ".";
    if (ask.verb == Verb::set) {
        const auto v = readSignalValue(item->signal, ask.value);
        if (!v)
            return refused(Why::wrong, {v.error().message, ask.name, v.error().remedy});
        if (!(*v >= item->low && *v <= item->high))
            return refused(Why::wrong, {"is outside what is allowed from outside", ask.name, range});
        return put(*item, *v, caller);
    }
    const auto before = now(*item);
    if (!before)
        return refused(Why::away, {"it is not known how it is", ask.name, "Try again."});
    if (ask.verb == Verb::toggle) {
        if (item->signal.isNumber() || item->low > 0 || item->high < 1)
            return refused(Why::denied, {"is not on or off", ask.name, "Set it."});
        return put(*item, *before >= 0.5 ? 0 : 1, caller);
    }
    // A step ends where the range does.
    const auto by = wholeNumber(ask.value);
    if (!by || !std::isfinite(*by))
        return refused(Why::wrong, {"\"" + ask.value.substr(0, 40) + "\" is no number to step by", ask.name, ""});
    if (!item->signal.isNumber())
        return refused(Why::denied, {"has no steps", ask.name, "Set it."});
    return put(*item, std::clamp(*before + *by, item->low, item->high), caller);
}

} // namespace loom::project
