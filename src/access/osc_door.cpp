#include "access/osc_door.h"
#include "dsp/number.h"
#include <algorithm>
#include <cmath>

namespace loom::project {
namespace {

OscMessage messageOf(const AccessItem& i, double v) {
    OscMessage m{"/" + i.allowed.name, {}};
    if (i.signal.isNumber())
        m.arguments.emplace_back(v);
    else if (i.signal.spec.unit == engine::Unit::onOff)
        m.arguments.emplace_back(v >= 0.5 ? 1 : 0);
    else
        m.arguments.emplace_back(valueText(i.signal, v));
    return m;
}

// As people would type it: of a choice its number, from 0, does too.
std::string typedArgument(const AccessItem& i, const std::variant<int, double, std::string>& argument) {
    if (const auto* text = std::get_if<std::string>(&argument))
        return *text;
    const auto* whole = std::get_if<int>(&argument);
    const double v = whole ? *whole : std::get<double>(argument);
    const auto& choices = i.signal.spec.choices;
    if (i.signal.spec.unit == engine::Unit::onOff)
        return v >= 0.5 ? "on" : "off";
    if (i.signal.spec.unit == engine::Unit::choice)
        return v >= 0 && v < static_cast<double>(choices.size()) ? choices[static_cast<std::size_t>(v)] : plainText(v);
    return plainText(whole ? v : std::round(v * 1e6) / 1e6); // what a float holds of it
}

} // namespace

void OscDoor::odd(const std::string& what) {
    if (odd_.count++ == 0)
        odd_.first = what;
}

OscDoor::Odd OscDoor::takeOdd() {
    return std::exchange(odd_, {});
}

void OscDoor::one(const OscMessage& m, const std::string& source, std::vector<OscMessage>& answers) {
    AccessHost::Caller caller;
    caller.source = source;
    bool any = false;
    for (const auto& item : host_.items()) {
        if (!host_.isFor(item, caller) || !oscMatches(m.path, "/" + item.allowed.name))
            continue;
        any = true;
        using Verb = AccessAsk::Verb;
        const bool asks = m.arguments.empty() && !item.signal.pulse;
        AccessAsk ask{asks ? Verb::get : item.signal.pulse ? Verb::give : Verb::set, item.allowed.name, {}};
        if (ask.verb == Verb::set)
            ask.value = typedArgument(item, m.arguments[0]);
        // A button that is let go sends 0: no moment.
        if (const auto* v = m.arguments.empty() ? nullptr : std::get_if<int>(&m.arguments[0]);
            item.signal.pulse && v && *v == 0)
            continue;
        if (const auto* v = m.arguments.empty() ? nullptr : std::get_if<double>(&m.arguments[0]);
            item.signal.pulse && v && *v == 0)
            continue;
        const auto a = host_.ask(ask, caller);
        if (a.is == AccessAnswer::Is::refused)
            odd(a.error.text());
        else if (asks && a.value)
            answers.push_back(messageOf(item, *a.value));
    }
    if (!any)
        odd(m.path.substr(0, 80) + ": there is nothing of that name.");
}

std::vector<OscMessage> OscDoor::received(std::string_view packet, const std::string& source, double now) {
    std::vector<OscMessage> answers;
    if (now - second_ >= 1)
        second_ = now, messages_ = 0;
    if (messages_ >= mostMessages) {
        odd("More than 2,000 messages came within a second.");
        return answers;
    }
    const auto read = readOsc(packet, true);
    if (!read) {
        ++messages_;
        odd(read.error().text());
        return answers;
    }
    for (const auto& m : *read) {
        if (++messages_ > mostMessages) {
            odd("More than 2,000 messages came within a second.");
            break;
        }
        one(m, source, answers);
    }
    return answers;
}

std::vector<OscMessage> OscDoor::tell(const std::vector<std::optional<double>>& values, double now) {
    std::vector<OscMessage> out;
    const bool all = now - toldAll_ >= againEvery;
    if (all)
        toldAll_ = now;
    const auto& items = host_.items();
    for (std::size_t i = 0; i < items.size() && i < values.size(); ++i) {
        if (!values[i] || !items[i].allowed.role.empty())
            continue;
        const auto [it, fresh] = told_.try_emplace(items[i].allowed.name, *values[i]);
        if (!fresh && !all && it->second == *values[i])
            continue;
        it->second = *values[i];
        out.push_back(messageOf(items[i], *values[i]));
    }
    return out;
}

} // namespace loom::project
