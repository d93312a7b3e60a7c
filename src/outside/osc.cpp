#include "outside/osc.h"
#include "dsp/number.h"
#include <algorithm>
#include <cmath>
#include <cstring>
#include <lo/lo.h>
#include <memory>

namespace loom::project {
namespace {

constexpr int deepest = 4; // bundles in bundles

const Error notOsc{"is no message of OSC 1.0", "packet", ""};

// liblo's arguments lie where they stand in the packet, at any multiple of four.
template <class T> T held(const lo_arg* argument) {
    T v;
    std::memcpy(&v, static_cast<const void*>(argument), sizeof v);
    return v;
}

bool isPath(const std::string& path, bool patterns = false) {
    return !path.empty() && path[0] == '/' && path.size() <= 500 &&
           path.find_first_of(patterns ? " #\t\r\n" : " #*,?[]{}\t\r\n") == std::string::npos;
}

std::optional<Error> read(std::string_view bytes, bool patterns, int depth, std::vector<OscMessage>& to) {
    if (bytes.size() < 4 || bytes.size() % 4 != 0 || depth > deepest)
        return notOsc;
    if (bytes.substr(0, 8) == std::string_view("#bundle\0", 8)) {
        if (bytes.size() < 16)
            return notOsc;
        bytes.remove_prefix(16);
        while (!bytes.empty()) {
            if (bytes.size() < 4)
                return notOsc;
            std::uint32_t size = 0;
            for (int i = 0; i < 4; ++i)
                size = size * 256 + static_cast<unsigned char>(bytes[static_cast<std::size_t>(i)]);
            bytes.remove_prefix(4);
            if (size == 0 || size > bytes.size())
                return notOsc;
            if (const auto e = read(bytes.substr(0, size), patterns, depth + 1, to))
                return e;
            bytes.remove_prefix(size);
        }
        return {};
    }
    if (to.size() >= mostOscMessages)
        return Error{"holds more than 64 messages", "packet", ""};
    std::string copy(bytes); // liblo turns bytes around where they lie
    if (copy.find('\0') == std::string::npos)
        return notOsc;
    OscMessage m;
    m.path = copy.c_str();
    if (!isPath(m.path, patterns))
        return notOsc;
    int result = 0;
    const std::unique_ptr<void, void (*)(lo_message)> message(lo_message_deserialise(copy.data(), copy.size(), &result),
                                                              lo_message_free);
    if (!message || result != 0)
        return notOsc;
    const char* types = lo_message_get_types(message.get());
    lo_arg** arguments = lo_message_get_argv(message.get());
    const int count = lo_message_get_argc(message.get());
    if (count > static_cast<int>(mostOscArguments))
        return Error{"has more than 64 arguments", m.path, ""};
    for (int i = 0; i < count; ++i)
        switch (types[i]) {
        case LO_INT32:
            m.arguments.emplace_back(held<std::int32_t>(arguments[i]));
            break;
        case LO_FLOAT:
            m.arguments.emplace_back(static_cast<double>(held<float>(arguments[i])));
            break;
        case LO_DOUBLE:
            m.arguments.emplace_back(held<double>(arguments[i]));
            break;
        case LO_TRUE:
        case LO_FALSE:
            m.arguments.emplace_back(types[i] == LO_TRUE ? 1 : 0);
            break;
        case LO_STRING:
        case LO_SYMBOL:
            m.arguments.emplace_back(std::string(reinterpret_cast<const char*>(arguments[i])));
            break;
        default:
            return Error{std::string("has an argument of the type ") + types[i] + ", which is not taken", m.path,
                         "Use i, f, d, s, T or F."};
        }
    to.push_back(std::move(m));
    return {};
}

} // namespace

Result<std::vector<OscMessage>> readOsc(std::string_view bytes, bool patterns) {
    if (bytes.size() > longestOsc)
        return notOsc;
    std::vector<OscMessage> all;
    if (const auto e = read(bytes, patterns, 0, all))
        return *e;
    return all;
}

bool oscMatches(const std::string& pattern, const std::string& path) {
    // Every star may stand for anything: more than a few could be tried for ever.
    return pattern == path || (std::count(pattern.begin(), pattern.end(), '*') <= 4 &&
                               std::count(pattern.begin(), pattern.end(), '{') <= 4 &&
                               lo_pattern_match(path.c_str(), pattern.c_str()) != 0);
}

Result<std::string> oscBytes(const OscMessage& m) {
    if (!isPath(m.path))
        return Error{"\"" + m.path.substr(0, 60) + "\" is no address of OSC", "", "As in /display/power."};
    const std::unique_ptr<void, void (*)(lo_message)> message(lo_message_new(), lo_message_free);
    for (const auto& a : m.arguments) {
        if (const auto* i = std::get_if<int>(&a))
            lo_message_add_int32(message.get(), *i);
        else if (const auto* d = std::get_if<double>(&a))
            lo_message_add_float(message.get(), static_cast<float>(*d));
        else
            lo_message_add_string(message.get(), std::get<std::string>(a).c_str());
    }
    std::string out(lo_message_length(message.get(), m.path.c_str()), '\0');
    if (out.size() > longestOsc)
        return Error{"is too long for one message", m.path, ""};
    std::size_t size = out.size();
    lo_message_serialise(message.get(), m.path.c_str(), out.data(), &size);
    return out;
}

std::string oscText(const OscMessage& m) {
    std::string out = m.path;
    for (const auto& a : m.arguments) {
        if (const auto* i = std::get_if<int>(&a))
            out += " i:" + std::to_string(*i);
        else if (const auto* d = std::get_if<double>(&a))
            out += " f:" + plainText(std::round(*d * 1e6) / 1e6); // what a float holds of it
        else {
            const auto& s = std::get<std::string>(a);
            out += s.find_first_of(" \"") == std::string::npos && !s.empty() ? " s:" + s : " s:\"" + s + "\"";
        }
    }
    return out;
}

Result<OscMessage> readOscText(const std::string& text) {
    OscMessage m;
    std::size_t at = text.find(' ');
    m.path = text.substr(0, at);
    if (!isPath(m.path))
        return Error{"\"" + m.path.substr(0, 60) + "\" is no address of OSC", "", "As in /display/power i:1."};
    while (at != std::string::npos && at < text.size()) {
        while (at < text.size() && text[at] == ' ')
            ++at;
        if (at >= text.size())
            break;
        const auto kind = text.substr(at, 2);
        if (kind != "i:" && kind != "f:" && kind != "s:")
            return Error{"an argument has no type", text.substr(at, 20), "Write i:1, f:0.5 or s:words."};
        at += 2;
        std::string value;
        if (kind == "s:" && at < text.size() && text[at] == '"') {
            const auto end = text.find('"', at + 1);
            if (end == std::string::npos)
                return Error{"a quotation mark is not closed", text.substr(at, 20), ""};
            value = text.substr(at + 1, end - at - 1);
            at = end + 1;
        } else {
            const auto end = std::min(text.find(' ', at), text.size());
            value = text.substr(at, end - at);
            at = end;
        }
        if (m.arguments.size() >= mostOscArguments)
            return Error{"has more than 64 arguments", m.path, ""};
        if (kind == "s:") {
            m.arguments.emplace_back(std::move(value));
            continue;
        }
        const auto v = wholeNumber(value);
        if (!v || (kind == "i:" && !(std::abs(*v) < 2147483647.0)))
            return Error{"\"" + value.substr(0, 40) + "\" is no number", m.path, ""};
        if (kind == "i:")
            m.arguments.emplace_back(static_cast<int>(std::lround(*v)));
        else
            m.arguments.emplace_back(*v);
    }
    return m;
}

} // namespace loom::project
