#include "rooms/copy_names.h"
#include "model/outside.h"
#include "model/scene.h"
#include <algorithm>

namespace loom::project {
namespace {

const std::string& called(const std::map<std::string, std::string>& names, const std::string& id) {
    const auto it = names.find(id);
    return it == names.end() ? id : it->second;
}

} // namespace

std::string CopyNames::space(const std::string& rooms) const {
    std::string out;
    for (std::size_t at = 0; at <= rooms.size();) {
        const auto end = std::min(rooms.find('+', at), rooms.size());
        out += (at > 0 ? "+" : "") + called(things, rooms.substr(at, end - at));
        at = end + 1;
    }
    return out;
}

std::string CopyNames::anew(const std::string& text) const {
    std::string out;
    for (std::size_t at = 0; at < text.size();) {
        const auto end = std::min(text.find(' ', at), text.size());
        auto word = text.substr(at, end - at);
        const auto colon = word.find(':');
        const auto kind = colon == std::string::npos ? std::string() : word.substr(0, colon + 1);
        auto rest = word.substr(kind.size());
        if (kind == scenePrefix)
            rest = called(scenes, rest);
        else if (kind == "mute:") // the names of signals (rules/signal.h)
            rest = space(rest);
        else if (kind != "wall:" && kind != "cue:") {
            const auto slash = std::min(rest.find('/'), rest.size());
            if (!kind.empty() || slash < rest.size())
                rest = called(things, rest.substr(0, slash)) + rest.substr(slash);
        }
        out += kind + rest;
        if (end < text.size())
            out += ' ';
        at = end + 1;
    }
    return out;
}

std::string CopyNames::inGap(const std::string& slot, const std::string& text) const {
    if (slot == "signal" || slot == "line" || slot == "player")
        return anew(text);
    return slot == "scene"     ? called(scenes, text)
           : slot == "surface" ? called(surfaces, text)
           : slot == "rule"    ? called(rules, text)
           : slot == "script"  ? called(scripts, text)
                               : text;
}

std::string CopyNames::inScript(const std::string& text) const {
    std::string out;
    for (std::size_t at = 0; at < text.size();) {
        const auto open = text.find_first_of("\"'", at);
        const auto close =
            open == std::string::npos ? open : text.find_first_of(std::string(1, text[open]) + "\n", open + 1);
        if (close == std::string::npos)
            return out + text.substr(at);
        out += text.substr(at, open + 1 - at) + anew(text.substr(open + 1, close - open - 1)) + text[close];
        at = close + 1;
    }
    return out;
}

} // namespace loom::project
