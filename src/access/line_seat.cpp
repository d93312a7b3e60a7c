#include "access/line_seat.h"
#include "dsp/words.h"
#include <algorithm>

namespace loom::project {
namespace {

using Verb = AccessAsk::Verb;

// "sets" what may be set, "calls" a line that may be called, "tells" what is only told, "gives" a moment; and what its
// values are.
std::string listed(const AccessItem& i) {
    std::string t = "has " + i.allowed.name +
                    (i.signal.pulse     ? " gives"
                     : !i.allowed.sets  ? " tells"
                     : isLine(i.signal) ? " calls"
                                        : " sets");
    if (i.signal.pulse)
        return t;
    if (i.signal.isNumber())
        return t + " " + plainValue(i.signal, i.low) + " " + plainValue(i.signal, i.high);
    if (i.signal.spec.unit == engine::Unit::onOff)
        return t + " off, on";
    for (std::size_t k = 0; k < i.signal.spec.choices.size(); ++k)
        t += (k == 0 ? " " : ", ") + i.signal.spec.choices[k];
    return t;
}

std::string is(const AccessItem& item, std::optional<double> value) {
    return "is " + item.allowed.name + " " + accessText(item, value);
}

} // namespace

Result<AccessAsk> readAccessLine(const std::string& text) {
    const auto all = trimmed(text);
    const auto gap = std::min(all.find_first_of(" \t"), all.size());
    const auto verb = all.substr(0, gap);
    const auto* word = accessVerb(verb);
    if (!word)
        return Error{"\"" + verb.substr(0, 40) + "\" is nothing that can be asked", "",
                     "list, get, set, step, toggle, give, watch, ignore, pin, leave and bye are."};
    AccessAsk ask;
    ask.verb = word->verb;
    const auto rest = trimmed(all.substr(gap));
    if (word->takes == 0)
        return rest.empty() ? Result<AccessAsk>(ask) : Error{verb + " takes nothing behind it", rest.substr(0, 40), ""};
    // A role may have blanks, a PIN has none; a name has none, a value may have some.
    const auto split = ask.verb == Verb::pin ? rest.find_last_of(" \t") : rest.find_first_of(" \t");
    if (word->takes == 1 ? rest.empty() || split != std::string::npos : split == std::string::npos)
        return Error{verb + (word->takes == 1 ? " takes one name behind it" : " takes a name and a value behind it"),
                     "", verb == "pin" ? "As in: pin technician 2468" : ""};
    ask.name = trimmed(rest.substr(0, split));
    if (word->takes == 2)
        ask.value = trimmed(rest.substr(split));
    return ask;
}

void LineSeat::line(const std::string& text, double now) {
    if (trimmed(text).empty())
        return;
    if (trimmed(text) == "bye") {
        over_ = true;
        return;
    }
    const auto read = readAccessLine(text);
    if (!read)
        return out("error " + accessRefusal(read.error()));
    const auto a = seat_.ask(*read, now);
    switch (a.is) {
    case AccessAnswer::Is::value:
        return out(is(*a.item, a.value));
    case AccessAnswer::Is::done:
        return out("ok");
    case AccessAnswer::Is::list:
        for (const auto* item : a.list)
            out(listed(*item));
        return out("ok");
    case AccessAnswer::Is::refused:
        return out("error " + accessRefusal(a.error));
    }
}

void LineSeat::received(std::string_view bytes, double now) {
    for (const char c : bytes) {
        if (over_)
            return;
        if (c == '\r' || c == '\n') {
            if (tooLong_)
                out("error a line is longer than 500 bytes.");
            else
                line(line_, now);
            line_.clear();
            tooLong_ = false;
        } else if (line_.size() < longestLine) {
            line_ += c;
        } else {
            tooLong_ = true;
        }
    }
}

void LineSeat::tell(const std::vector<std::optional<double>>& values) {
    for (const auto& t : seat_.changed(values))
        out(is(*t.item, t.value));
}

std::string LineSeat::take() {
    return std::exchange(out_, {});
}

} // namespace loom::project
