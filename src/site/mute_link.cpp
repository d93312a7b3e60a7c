#include "site/mute_link.h"
#include "rooms/owned_ports.h"
#include "schema/json_text.h"
#include <algorithm>
#include <nlohmann/json.hpp>
#include <sodium.h>

namespace loom::site {

using nlohmann::json;

void MuteLink::setSpaces(const std::set<std::string>& spaces, const std::set<std::string>& cuts, double now) {
    cuts_ = cuts;
    std::erase_if(states_, [&](const auto& one) { return !spaces.count(one.first); });
    for (const auto& space : spaces)
        if (auto [it, fresh] = states_.try_emplace(space); fresh)
            it->second.beatAt = now - beatEvery; // it asks at once
}

void MuteLink::plugged(double) {
    for (auto& [_, s] : states_)
        s.beatAt = s.toldAt = -1e9, s.left = std::max(s.left, 1);
}

bool MuteLink::muted(const std::string& space) const {
    const auto it = states_.find(space);
    return it != states_.end() && it->second.muted;
}

bool MuteLink::known(const std::string& space) const {
    const auto it = states_.find(space);
    return it != states_.end() && it->second.known;
}

bool MuteLink::cut(const std::string& space, double now) const {
    if (cuts_.count(space))
        return true;
    const auto it = states_.find(space);
    return it != states_.end() && std::any_of(it->second.others.begin(), it->second.others.end(), [&](const auto& one) {
               return one.second.cuts && now - one.second.at < lostAfter;
           });
}

std::vector<std::string> MuteLink::spaces() const {
    std::vector<std::string> all;
    for (const auto& [space, _] : states_)
        all.push_back(space);
    return all;
}

void MuteLink::adopt(const std::string& space, State& s, bool muted, std::uint64_t count, const std::string& by) {
    const bool another = s.muted != muted || !s.known;
    s.muted = muted, s.count = count, s.by = by, s.known = true;
    if (another && changed)
        changed(space, muted);
}

void MuteLink::set(const std::string& space, bool muted, double now) {
    const auto it = states_.find(space);
    if (it == states_.end())
        return;
    auto& s = it->second;
    s.left = repeats + 1, s.toldAt = -1e9;
    adopt(space, s, muted, s.count + 1, serial_);
    alike(space, muted, now);
}

void MuteLink::alike(const std::string& space, bool muted, double now) {
    for (const auto& together : together_) {
        const auto parts = project::roomsOfOwner(together);
        const bool whole = together == space;
        if (!whole && std::find(parts.begin(), parts.end(), space) == parts.end())
            continue;
        auto all = parts;
        all.push_back(together);
        for (const auto& other : all)
            if (const auto it = states_.find(other); it != states_.end() && other != space && it->second.muted != muted)
                set(other, muted, now);
    }
}

void MuteLink::join(const std::set<std::string>& together, double now) {
    const auto before = std::exchange(together_, together);
    for (const auto& one : together_) {
        if (before.count(one))
            continue;
        auto all = project::roomsOfOwner(one);
        all.push_back(one);
        const auto muted = std::find_if(all.begin(), all.end(), [&](const auto& space) { return this->muted(space); });
        if (muted != all.end()) // what was muted in one room stays so in the larger one
            alike(*muted, true, now);
    }
}

std::string MuteLink::sealOf(const std::string& space, bool muted, std::uint64_t count, const std::string& by) const {
    const auto text = "loom mute|" + space + "|" + (muted ? "1" : "0") + "|" + std::to_string(count) + "|" + by;
    unsigned char out[32];
    crypto_generichash(out, sizeof out, reinterpret_cast<const unsigned char*>(text.data()), text.size(), key_->data(),
                       key_->size());
    return base64(out, sizeof out);
}

bool MuteLink::heard(const std::string& datagram, double now) {
    const auto j = schema::parseJson(datagram, "datagram");
    if (!j || !j->is_object() || j->value("loom", json()) != "mute")
        return false;
    const auto text = [&](const char* key) {
        const auto v = j->value(key, json());
        return v.is_string() && v.get_ref<const std::string&>().size() <= 200 ? v.get<std::string>() : std::string();
    };
    const auto space = text("space"), from = text("from"), by = text("by");
    const auto muted = j->value("muted", json()), count = j->value("count", json()),
               cuts = j->value("cuts", json(false));
    const auto it = states_.find(space);
    if (it == states_.end() || from.empty() || from == serial_ || !muted.is_boolean() || !count.is_number_unsigned() ||
        count.get<std::uint64_t>() > (std::uint64_t{1} << 50))
        return false;
    const bool theirs = muted.get<bool>();
    const auto n = count.get<std::uint64_t>();
    if (key_ && text("seal") != sealOf(space, theirs, n, by))
        return false;
    auto& s = it->second;
    auto& other = s.others[from];
    if (s.others.size() > 300) {
        s.others.erase(from);
        return false;
    }
    const bool wasAway = other.at > 0 && now - other.at > lostAfter;
    other = {now, cuts.is_boolean() && cuts.get<bool>()};
    const bool asks = n == 0;
    if (asks) { // it was just switched on
        if (s.known)
            s.left = std::max(s.left, 1);
        return true;
    }
    if (!s.known) {
        adopt(space, s, theirs, n, by);
        alike(space, theirs, now);
        return true;
    }
    if (wasAway && theirs != s.muted) { // both went on without the other: muted wins
        s.left = repeats + 1, s.toldAt = -1e9;
        adopt(space, s, true, std::max(n, s.count) + 1, serial_);
        alike(space, true, now);
        return true;
    }
    if (std::pair(n, by) > std::pair(s.count, s.by)) {
        adopt(space, s, theirs, n, by);
        alike(space, theirs, now);
    } else if (std::pair(n, by) < std::pair(s.count, s.by)) {
        s.left = std::max(s.left, 1); // it missed something
    }
    return true;
}

std::vector<std::string> MuteLink::take(double now) {
    std::vector<std::string> all;
    for (auto& [space, s] : states_) {
        const bool again = s.left > 0 && now - s.toldAt >= repeatEvery;
        if (!again && now - s.beatAt < beatEvery)
            continue;
        s.left = std::max(0, s.left - 1);
        s.toldAt = s.beatAt = now;
        json j{{"loom", "mute"},
               {"space", space},
               {"muted", s.muted},
               {"count", s.known ? s.count : 0},
               {"by", s.known ? s.by : std::string()},
               {"from", serial_},
               {"cuts", cuts_.count(space) > 0}};
        if (key_)
            j["seal"] = sealOf(space, s.muted, s.known ? s.count : 0, s.known ? s.by : std::string());
        all.push_back(j.dump(-1, ' ', false, json::error_handler_t::replace));
    }
    return all;
}

} // namespace loom::site
