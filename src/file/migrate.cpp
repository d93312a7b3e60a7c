#include "file/migrate.h"
#include <algorithm>
#include <map>
#include <string>
#include <vector>

namespace loom::project {

nlohmann::json migrateFrom1(nlohmann::json old) {
    nlohmann::json building = {{"id", "building"}, {"name", old.value("name", "Building")}};
    building["rooms"] = old.contains("rooms") ? old.at("rooms") : nlohmann::json::array();
    old.erase("rooms");
    old["buildings"] = nlohmann::json::array({building});
    old["version"] = 2;
    return old;
}

namespace {

using nlohmann::json;

bool onNetwork(const std::string& port) {
    return port.rfind("net ", 0) == 0;
}

// The stream of a device that has this output, and the channel; made if there is none.
std::pair<std::string, std::size_t> streamOf(json& device, const std::string& port) {
    auto& streams = device["streams"];
    if (!streams.is_array())
        streams = json::array();
    for (auto& s : streams)
        for (std::size_t c = 0; c < s.at("ports").size(); ++c)
            if (s.at("ports")[c] == port)
                return {s.at("id"), c};
    for (auto& s : streams)
        if (s.at("ports").size() < 8) {
            s["ports"].push_back(port);
            return {s.at("id"), s.at("ports").size() - 1};
        }
    const std::size_t n = streams.size() + 1;
    const std::string number = n > 1 ? " " + std::to_string(n) : "",
                      id = "net" + (n > 1 ? "-" + std::to_string(n) : "");
    std::string name = device.value("name", device.at("id").get<std::string>());
    std::size_t end = std::min<std::size_t>(name.size(), 40);
    while (end < name.size() && (static_cast<unsigned char>(name[end]) & 0xc0) == 0x80)
        --end; // whole letters
    name = name.substr(0, end) + number;
    std::replace(name.begin(), name.end(), '/', '-');
    streams.push_back({{"id", id}, {"name", name}, {"ports", {port}}});
    return {id, 0};
}

} // namespace

nlohmann::json migrateFrom2(nlohmann::json old) {
    std::map<std::string, std::size_t> at;
    auto devices = old.value("devices", json::array());
    const auto text = [](const json& j) { return j.is_string() ? j.get<std::string>() : std::string(); };
    for (std::size_t n = 0; devices.is_array() && n < devices.size(); ++n) // what is wrong is told by whoever reads it
        if (devices[n].is_object() && devices[n].contains("id"))
            at[text(devices[n]["id"])] = n;
    // Streams first: how wide they are decides how wide receivers are.
    struct Led {
        std::size_t to;
        std::string input, stream;
        std::size_t channel;
    };
    std::vector<Led> all;
    for (std::size_t n = 0; devices.is_array() && n < devices.size(); ++n) {
        if (!devices[n].is_object() || !devices[n].contains("feeds") || !devices[n]["feeds"].is_object())
            continue;
        auto& feeds = devices[n]["feeds"];
        for (auto it = feeds.begin(); it != feeds.end();) {
            const std::string from = text(it.value()), device = from.substr(0, from.find('/'));
            const std::string port = from.find('/') == std::string::npos ? "" : from.substr(from.find('/') + 1);
            if (!onNetwork(it.key()) || !onNetwork(port) || !at.count(device)) {
                ++it;
                continue;
            }
            const auto [stream, channel] = streamOf(devices[at.at(device)], port);
            all.push_back({n, it.key(), device + "/" + stream, channel});
            it = feeds.erase(it);
        }
    }
    for (const auto& l : all) {
        auto& receivers = devices[l.to]["receivers"];
        if (!receivers.is_array())
            receivers = json::array();
        json* here = nullptr;
        for (auto& r : receivers)
            if (r.at("streams") == json::array({l.stream}) &&
                (r.at("inputs").size() <= l.channel || r.at("inputs")[l.channel] == ""))
                here = &r;
        if (!here) {
            receivers.push_back({{"id", "net-" + std::to_string(receivers.size() + 1)},
                                 {"inputs", json::array()},
                                 {"streams", {l.stream}}});
            here = &receivers.back();
        }
        while ((*here)["inputs"].size() <= l.channel)
            (*here)["inputs"].push_back("");
        (*here)["inputs"][l.channel] = l.input;
    }
    old["devices"] = std::move(devices);
    old["version"] = 3;
    return old;
}

} // namespace loom::project
