#include "voicings/load_text.h"
#include "dsp/number.h"
#include "dsp/words.h"
#include "model/describe.h"
#include <algorithm>

namespace loom::project {
namespace {

constexpr double mostTap = 10000; // W
constexpr int mostInRange = 9999; // "1-9999"
constexpr const char* where = "Hangs on it";

std::vector<std::string> parts(const std::string& text) {
    std::vector<std::string> all;
    for (std::size_t at = 0; at <= text.size();) {
        const auto end = std::min(text.find(',', at), text.size());
        if (auto part = trimmed(std::string_view(text).substr(at, end - at)); !part.empty())
            all.push_back(std::move(part));
        at = end + 1;
    }
    return all;
}

// "Foyer ceiling 3": its words and its number; 0 without one.
std::pair<std::string, int> numbered(const std::string& name) {
    const auto blank = name.rfind(' ');
    if (blank == std::string::npos || blank == 0 || blank + 5 < name.size())
        return {name, 0};
    const auto n = wholeInteger(name.substr(blank + 1), 1, mostInRange);
    return n && name[blank + 1] != '0' ? std::pair(trimmed(name.substr(0, blank)), *n) : std::pair(name, 0);
}

// "Foyer ceiling 1-10" as ten names; anything else as one.
std::vector<std::string> namesOf(std::string name) {
    if (const auto dash = name.find("\u2013"); dash != std::string::npos)
        name.replace(dash, std::string("\u2013").size(), "-");
    const auto dash = name.rfind('-');
    const auto last =
        dash == std::string::npos ? std::nullopt : wholeInteger(trimmed(name.substr(dash + 1)), 1, mostInRange);
    const auto [stem, first] = last ? numbered(trimmed(name.substr(0, dash))) : std::pair(name, 0);
    if (first == 0 || first >= *last)
        return {name};
    std::vector<std::string> all;
    for (int n = first; n <= *last; ++n)
        all.push_back(stem + " " + std::to_string(n));
    return all;
}

const Device* loudspeaker(const Project& p, const std::string& name) {
    for (const auto& d : p.devices)
        if (d.id == name || lower(d.name) == lower(name))
            if (const auto* m = d.spec(); m && m->loudspeaker)
                return &d;
    return nullptr;
}

// "6 W", "6". None: it is no tap.
std::optional<double> tapOf(std::string text) {
    text = trimmed(text);
    if (!text.empty() && (text.back() == 'W' || text.back() == 'w'))
        text = trimmed(text.substr(0, text.size() - 1));
    const auto typed = typedNumber(text);
    if (typed.unsure || typed.length == 0 || typed.length != text.size() || !(typed.value >= 0) ||
        typed.value > mostTap)
        return {};
    return typed.value;
}

Error noTap(const std::string& text) {
    return {"\"" + text.substr(0, 60) + "\" has no tap in watts", where, "Write name @ 6 W."};
}

} // namespace

Result<std::vector<LoudspeakerLoad>> readLoads(const Project& p, const std::string& text) {
    std::vector<LoudspeakerLoad> all;
    for (const auto& part : parts(text)) {
        LoudspeakerLoad h;
        const auto at = part.find('@');
        if (at != std::string::npos) {
            const auto tap = tapOf(part.substr(at + 1));
            if (!tap)
                return noTap(part);
            h.tapWatts = *tap;
        }
        const std::string said = trimmed(part.substr(0, at));
        const auto colon = said.rfind(':');
        const std::string way = colon == std::string::npos ? "" : trimmed(said.substr(colon + 1));
        for (const auto& name : namesOf(way.empty() ? said : trimmed(said.substr(0, colon)))) {
            const auto* d = loudspeaker(p, name);
            if (!d)
                return Error{"there is no loudspeaker \"" + name.substr(0, 60) + "\"", where,
                             "Write names as in Survey, parted by commas; Foyer ceiling 1-10 means ten."};
            h.device = d->id;
            if (!way.empty()) {
                const auto* v = p.voicing(d->voicing);
                const int ways = static_cast<int>(v ? v->ways.size() : mostWays);
                h.way = wholeInteger(way, 1, ways).value_or(0) - 1;
                for (int w = 0; v && w < ways; ++w)
                    if (lower(v->ways[static_cast<std::size_t>(w)].name) == lower(way))
                        h.way = w;
                if (h.way < 0)
                    return Error{"\"" + name.substr(0, 60) + "\" has no way \"" + way.substr(0, 40) + "\"", where,
                                 "Write a way of its voicing, such as Low or High."};
            }
            all.push_back(h);
        }
    }
    return all;
}

std::string loadsText(const Project& p, const AmplifierOutput& out) {
    struct Said {
        std::string stem, rest{};
        int first = 0, last = 0; // numbers; 0: none
    };
    std::vector<Said> all;
    for (const auto& l : out.loads) {
        const auto* d = p.device(l.device);
        const auto* v = d ? p.voicing(d->voicing) : nullptr;
        Said said{d && loudspeaker(p, d->name) == d && d->name.find_first_of(",:@") == std::string::npos ? d->name
                                                                                                         : l.device};
        if (v && v->ways.size() > 1 && l.way < static_cast<int>(v->ways.size()))
            said.rest += ": " + v->ways[static_cast<std::size_t>(l.way)].name;
        else if (l.way > 0)
            said.rest += ": " + std::to_string(l.way + 1);
        if (out.line() && l.tapWatts > 0)
            said.rest += " @ " + shortText(l.tapWatts) + " W";
        if (const auto [stem, n] = numbered(said.stem); n > 0) {
            said.stem = stem;
            said.first = said.last = n;
        }
        if (!all.empty() && said.first > 0 && all.back().stem == said.stem && all.back().rest == said.rest &&
            all.back().last + 1 == said.first)
            all.back().last = said.first;
        else
            all.push_back(said);
    }
    std::string text;
    for (const auto& one : all) {
        text += (text.empty() ? "" : ", ") + one.stem;
        if (one.first > 0)
            text += " " + std::to_string(one.first);
        if (one.last > one.first)
            text += "\u2013" + std::to_string(one.last);
        text += one.rest;
    }
    return text;
}

Result<AmplifierOutput> withLoads(const Project& p, AmplifierOutput out, const std::string& typed) {
    std::string text = trimmed(typed);
    if (lower(text).rfind("all", 0) == 0 && trimmed(text.substr(3)).rfind('@', 0) == 0)
        text = trimmed(text.substr(3)); // "all @ 6 W"
    if (text.rfind('@', 0) == 0 && !out.loads.empty()) {
        const auto tap = tapOf(text.substr(1));
        if (!tap)
            return noTap(text);
        for (auto& l : out.loads)
            l.tapWatts = *tap;
    } else {
        auto loads = readLoads(p, text);
        if (!loads)
            return loads.error();
        out.loads = std::move(*loads);
    }
    if (!out.line() && std::any_of(out.loads.begin(), out.loads.end(), [](const auto& l) { return l.tapWatts > 0; }))
        out.wiring = Wiring::line100;
    return out;
}

const std::vector<std::string>& wiringNames() {
    static const std::vector<std::string> names{"parallel", "series", "70 V line", "100 V line"};
    return names;
}

Result<Wiring> readWiring(const std::string& typed) {
    const std::string text = lower(trimmed(typed));
    const auto& names = wiringNames();
    for (std::size_t i = 0; !text.empty() && i < names.size(); ++i)
        if (lower(names[i]).rfind(text, 0) == 0 ||
            (i >= 2 && text.rfind(names[i].substr(0, names[i].find(' ')), 0) == 0))
            return static_cast<Wiring>(i);
    return Error{"\"" + typed.substr(0, 40) + "\" is no wiring", "Wiring",
                 "Write parallel, series, 70 V line or 100 V line."};
}

Result<AmplifierOutput> withCrossSection(AmplifierOutput out, const std::string& text) {
    const auto comma = text.find(',');
    const auto mm2 = readNumber({"", "Cross-section", "mm\u00b2", 0, 0.05, 100}, text.substr(0, comma));
    if (!mm2)
        return mm2.error();
    out.mm2 = *mm2;
    if (comma == std::string::npos)
        return out;
    const auto warm = readNumber({"", "Temperature", "\u00b0C", 0, -50, 150}, trimmed(text.substr(comma + 1)));
    if (!warm)
        return warm.error();
    out.celsius = *warm;
    return out;
}

} // namespace loom::project
