#include "patch/outside.h"
#include "dsp/number.h"
#include "dsp/words.h"
#include <algorithm>
#include <cmath>
#include <set>

namespace loom::project {
namespace {

constexpr const char* outsideModel = "outside";

bool isOf(const Device& d, const stream::Description& s) {
    return isOutside(d) && d.rate == s.format.rate && (s.origin.empty() ? d.address.empty() : d.address == s.origin);
}

bool isThat(const Stream& one, const stream::Description& s) {
    return one.port == s.port && (s.multicast() ? !one.unicast && one.address == s.address : one.unicast);
}

std::string nameFor(const stream::Description& s) {
    std::string name = s.name.substr(0, 60);
    std::replace(name.begin(), name.end(), '/', '-');
    while (!name.empty() && name.back() == ' ')
        name.pop_back();
    return name.empty() ? "stream" : name;
}

// The first outputs that no stream of the device has.
std::vector<std::string> freePorts(const Device& d, int count) {
    std::set<std::string> used;
    for (const auto& s : d.streams)
        used.insert(s.ports.begin(), s.ports.end());
    std::vector<std::string> all;
    if (const auto* m = d.spec())
        for (const auto& port : m->ports(false))
            if (static_cast<int>(all.size()) < count && !used.count(port))
                all.push_back(port);
    return all;
}

template <class Has> std::string freeName(const std::string& wish, const std::string& joint, Has has) {
    std::string name = wish;
    for (int n = 2; has(name); ++n)
        name = wish + joint + std::to_string(n);
    return name;
}

} // namespace

Result<Edit> takeStream(const Project& p, const stream::Description& s, const ModelSource& models) {
    if (s.sealed)
        return Error{"is encrypted, and nobody here has its key", nameFor(s), "Ask for a stream in the open."};
    if (const auto wrong = stream::errorIn(s.format))
        return *wrong;
    if (s.format.packetMs() < 0.1 || s.format.packetMs() > 4.1)
        return Error{print("has packets of %g ms", s.format.packetMs()), nameFor(s),
                     "Those of 0.125 to 4 ms are heard here: ask for 1 ms."};
    if (s.port < 1024)
        return Error{print("comes to port %d", s.port), nameFor(s), "Ports from 1024 on are heard here."};
    Project then = p;
    auto& devices = then.devices;
    std::size_t at = 0;
    while (at < devices.size() && !isOf(devices[at], s))
        ++at;
    if (at == devices.size()) {
        Device d;
        d.model = outsideModel;
        d.models = models;
        if (!d.spec())
            return Error{"the catalogue has no model for devices of others", outsideModel, ""};
        d.id = freeName(outsideModel, "-", [&](const auto& id) { return p.device(id) != nullptr; });
        d.name = freeName(s.origin.empty() ? "Others" : "Others at " + s.origin, " ", [&](const auto& name) {
            return std::any_of(p.devices.begin(), p.devices.end(), [&](const auto& one) { return one.name == name; });
        });
        d.address = s.origin;
        d.rate = s.format.rate;
        devices.push_back(std::move(d));
    }
    auto& d = devices.change(at);
    auto known = std::find_if(d.streams.begin(), d.streams.end(), [&](const auto& one) { return isThat(one, s); });
    const bool fresh = known == d.streams.end();
    if (fresh) {
        Stream one;
        one.id = freeName(engine::slug(nameFor(s)), "-", [&](const auto& id) {
            return std::any_of(d.streams.begin(), d.streams.end(), [&](const auto& other) { return other.id == id; });
        });
        one.name = freeName(nameFor(s), " ", [&](const auto& name) {
            return std::any_of(p.devices.begin(), p.devices.end(), [&](const auto& other) {
                return std::any_of(other.streams.begin(), other.streams.end(),
                                   [&](const auto& stream) { return lower(stream.name) == lower(name); });
            });
        });
        known = d.streams.insert(d.streams.end(), std::move(one));
    }
    if (static_cast<int>(known->ports.size()) != s.format.channels) {
        known->ports.clear();
        known->ports = freePorts(d, s.format.channels);
        if (static_cast<int>(known->ports.size()) < s.format.channels)
            return Error{print("has no room for %d channels more", s.format.channels), d.name,
                         "Withdraw streams of it that nobody hears."};
    }
    known->samples = s.format.encoding == stream::Encoding::l16 ? Stream::Samples::l16 : Stream::Samples::l24;
    known->packetMs = std::round(s.format.packetMs() * 1e6) / 1e6;
    known->unicast = !s.multicast();
    known->address = s.multicast() ? s.address : std::string();
    known->port = s.port;
    known->payload = s.payload;
    return editBetween(p, std::move(then), (fresh ? "Take " : "Take the new description of ") + known->name);
}

std::string takenStream(const Project& p, const stream::Description& s) {
    for (const auto& d : p.devices)
        if (isOf(d, s))
            for (const auto& one : d.streams)
                if (isThat(one, s))
                    return d.id + "/" + one.id;
    return {};
}

std::vector<stream::Directory::Entry> announcedByOthers(const Patched& patched, const stream::Directory& announced) {
    std::set<std::pair<std::string, int>> ours; // groups
    for (const auto& o : patched.offers)
        ours.emplace(o.description.address, o.description.port);
    std::vector<stream::Directory::Entry> all;
    for (const auto& [_, entry] : announced.all())
        if (!ours.count({entry.description.address, entry.description.port}))
            all.push_back(entry);
    std::stable_sort(all.begin(), all.end(),
                     [](const auto& a, const auto& b) { return a.description.name < b.description.name; });
    return all;
}

} // namespace loom::project
