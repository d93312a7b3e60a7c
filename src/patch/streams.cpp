#include "patch/streams.h"
#include "dsp/number.h"
#include "dsp/words.h"
#include "stream/sap.h"
#include <algorithm>
#include <cmath>
#include <set>

namespace loom::project {
namespace {

stream::Format formatOf(const Device& d, const Stream& s) {
    stream::Format f;
    f.encoding = s.samples == Stream::Samples::l16 ? stream::Encoding::l16 : stream::Encoding::l24;
    f.channels = static_cast<int>(s.ports.size());
    f.rate = d.rate;
    f.frames = stream::framesOf(s.packetMs, d.rate);
    return f;
}

double factorOf(double levelDb, bool muted, bool inverted) {
    return muted ? 0 : std::pow(10.0, levelDb / 20) * (inverted ? -1 : 1);
}

std::vector<std::string> portsOn(const Device& d, bool input, Transport transport) {
    std::vector<std::string> all;
    if (const auto* m = d.spec())
        for (const auto& port : m->ports(input))
            if (transportOf(port) == transport)
                all.push_back(port);
    return all;
}

// "network", "ring": as what is wrong says it.
const char* wordOf(Transport t) {
    return t == Transport::ring ? "ring" : "network";
}

// Inputs of the network to which sound comes already.
std::set<std::string> takenSlots(const Device& d) {
    std::set<std::string> all;
    for (const auto& r : d.receivers)
        all.insert(r.inputs.begin(), r.inputs.end());
    for (const auto& [port, from] : d.feeds)
        all.insert(port);
    return all;
}

template <class T> std::string freeId(const std::vector<T>& all, const std::string& wish) {
    std::string id = wish;
    for (int n = 2; std::any_of(all.begin(), all.end(), [&](const T& one) { return one.id == id; }); ++n)
        id = wish + "-" + std::to_string(n);
    return id;
}

Edit changed(Device d, std::string text) {
    const std::string id = d.id;
    return setDevices({{id, std::move(d)}}, std::move(text));
}

// Takes a stream out of the lists of a device's receivers; true: something was.
bool letGo(Device& d, const std::string& key) {
    bool any = false;
    for (auto& r : d.receivers)
        for (std::size_t n = r.streams.size(); n-- > 0;)
            if (r.streams[n] == key) {
                r.streams.erase(r.streams.begin() + static_cast<std::ptrdiff_t>(n));
                if (static_cast<int>(n) < r.chosen || r.chosen >= static_cast<int>(r.streams.size()))
                    r.chosen = std::max(0, r.chosen - 1);
                any = true;
            }
    std::erase_if(d.receivers, [](const Receiver& r) { return r.streams.empty(); });
    return any;
}

// Formats, addresses and ports of what is offered over the packet network.
void describe(Patched& all) {
    std::set<std::string> used; // addresses
    for (const auto& o : all.offers)
        used.insert(o.stream->address);
    for (auto& o : all.offers) {
        const Stream& s = *o.stream;
        auto& t = o.description;
        t.name = s.name;
        t.format = formatOf(*o.device, s);
        if (o.transport != Transport::network)
            continue;
        const std::uint32_t hash = stream::numberOf(o.key);
        t.session = hash;
        t.version = 1;
        t.origin = o.device->address;
        t.port = s.port;
        if (s.payload > 0)
            t.payload = s.payload;
        if (s.unicast) {
            t.address = o.heardBy.empty() ? std::string() : all.hearings[o.heardBy.front()].device->address;
        } else if (!s.address.empty()) {
            t.address = s.address;
        } else {
            std::uint32_t n = hash % 65534; // 239.20.0.1 to 239.20.255.254 (RFC 2365: 239.0.0.0/8 is ours to give)
            do {
                t.address = print("239.20.%d.%d", static_cast<int>((n + 1) >> 8), static_cast<int>((n + 1) & 0xff));
                n = (n + 1) % 65534;
            } while (!used.insert(t.address).second);
        }
    }
}

void countUses(Patched& all) {
    std::map<std::string, std::set<std::string>> out, in; // ports by device
    for (const auto& o : all.offers) {
        auto& u = all.uses[o.device->id];
        out[o.device->id].insert(o.stream->ports.begin(), o.stream->ports.end());
        if (o.transport != Transport::network)
            continue;
        const int flows = o.stream->unicast ? static_cast<int>(o.heardBy.size()) : 1;
        u.flowsOut += flows;
        u.megabitsOut += flows * o.load().megabits();
    }
    std::set<std::pair<std::string, int>> come; // a stream that two receivers of one device hear comes once
    for (const auto& h : all.hearings) {
        auto& u = all.uses[h.device->id];
        in[h.device->id].insert(h.receiver->inputs.begin(), h.receiver->inputs.end());
        if (h.offer < 0 || !come.emplace(h.device->id, h.offer).second)
            continue;
        const auto& o = all.offers[static_cast<std::size_t>(h.offer)];
        if (o.transport == Transport::network) {
            ++u.flowsIn;
            u.megabitsIn += o.load().megabits();
        }
    }
    for (auto& [device, u] : all.uses) {
        for (const auto& port : out[device])
            (transportOf(port) == Transport::ring ? u.ringOut : u.channelsOut) += !port.empty();
        for (const auto& port : in[device])
            (transportOf(port) == Transport::ring ? u.ringIn : u.channelsIn) += !port.empty();
    }
}

} // namespace

bool isOutside(const Device& d) {
    const auto* m = d.spec();
    return m && !m->onSite() && std::any_of(m->outputs.begin(), m->outputs.end(), [](const PortGroup& g) {
               return transportOf(g.name + " ") == Transport::network;
           });
}

Patched patchedOf(const Project& p) {
    Patched all;
    for (const auto& d : p.devices)
        for (const auto& s : d.streams) {
            Offer o{&d, &s, d.id + "/" + s.id};
            o.transport = s.ports.empty() ? Transport::network : transportOf(s.ports.front());
            all.offerAt_.emplace(o.key, all.offers.size());
            all.offers.push_back(std::move(o));
        }
    for (const auto& d : p.devices)
        for (const auto& r : d.receivers) {
            Hearing h{&d, &r, d.id + "/" + r.id, {}};
            if (r.chosen >= 0 && static_cast<std::size_t>(r.chosen) < r.streams.size())
                h.stream = r.streams[static_cast<std::size_t>(r.chosen)];
            if (const auto at = all.offerAt_.find(h.stream); at != all.offerAt_.end()) {
                h.offer = static_cast<int>(at->second);
                all.offers[at->second].heardBy.push_back(all.hearings.size());
            }
            all.hearingAt_.emplace(h.key, all.hearings.size());
            all.hearings.push_back(std::move(h));
        }
    describe(all);
    countUses(all);
    return all;
}

const Offer* Patched::offer(const std::string& key) const {
    const auto at = offerAt_.find(key);
    return at == offerAt_.end() ? nullptr : &offers[at->second];
}

const Hearing* Patched::hearing(const std::string& key) const {
    const auto at = hearingAt_.find(key);
    return at == hearingAt_.end() ? nullptr : &hearings[at->second];
}

const StreamUse& Patched::use(const std::string& device) const {
    static const StreamUse none;
    const auto at = uses.find(device);
    return at == uses.end() ? none : at->second;
}

std::vector<StreamThread> streamThreads(const Project& p) {
    std::map<std::string, std::pair<const Device*, const Stream*>> there;
    for (const auto& d : p.devices)
        for (const auto& s : d.streams)
            there[d.id + "/" + s.id] = {&d, &s};
    std::vector<StreamThread> all;
    for (const auto& d : p.devices)
        for (const auto& r : d.receivers) {
            const auto it = r.chosen >= 0 && static_cast<std::size_t>(r.chosen) < r.streams.size()
                                ? there.find(r.streams[static_cast<std::size_t>(r.chosen)])
                                : there.end();
            if (it == there.end())
                continue;
            const auto& [from, s] = it->second;
            const double gain = factorOf(s->levelDb, s->muted, s->inverted) * factorOf(r.levelDb, r.muted, r.inverted);
            for (std::size_t c = 0; c < std::min(s->ports.size(), r.inputs.size()); ++c)
                if (!r.inputs[c].empty())
                    all.push_back({from->id, s->ports[c], d.id, r.inputs[c], gain});
        }
    return all;
}

Result<std::string> streamKey(const Project& p, const std::string& said) {
    const auto slash = said.find('/');
    const std::string device = slash == std::string::npos ? std::string() : lower(said.substr(0, slash)),
                      stream = lower(slash == std::string::npos ? said : said.substr(slash + 1));
    std::vector<std::string> found;
    for (const auto& d : p.devices)
        for (const auto& s : d.streams)
            if ((device.empty() || lower(d.id) == device || lower(d.name) == device) &&
                (lower(s.id) == stream || lower(s.name) == stream))
                found.push_back(d.id + "/" + s.id);
    if (found.size() == 1)
        return found.front();
    if (found.empty())
        return Error{"There is no stream \"" + said.substr(0, 80) + "\"", "", "loomctl streams FILE lists them."};
    return Error{print("%d streams are called \"", static_cast<int>(found.size())) + said.substr(0, 80) + "\"", "",
                 "Say which one: " + found[0] + ", " + found[1] + "."};
}

// ---- edits ----

Result<Edit> offerStream(const Project& p, const std::string& device, const std::string& name,
                         const std::vector<std::string>& ports, int bits, double packetMs) {
    const auto* d = p.device(device);
    if (!d)
        return Error{"There is no device \"" + device.substr(0, 80) + "\"", "", ""};
    if (name.empty() || name.size() > 60 || name.find('/') != std::string::npos)
        return Error{"\"" + name.substr(0, 60) + "\" is no name for a stream", d->name,
                     "Take 1 to 60 letters without a slash."};
    for (const auto& other : p.devices)
        for (const auto& s : other.streams)
            if (lower(s.name) == lower(name) && other.soundNetwork == d->soundNetwork)
                return Error{"A stream is called \"" + s.name + "\" already", other.name, "Take another name."};
    const Transport on =
        !ports.empty() && transportOf(ports.front()) == Transport::ring ? Transport::ring : Transport::network;
    const auto all = portsOn(*d, false, on);
    for (const auto& port : ports)
        if (std::find(all.begin(), all.end(), port) == all.end())
            return Error{print("has no %s output \"", wordOf(on)) + port.substr(0, 40) + "\"", d->name,
                         all.empty() ? print("It sends nothing over the %s.", wordOf(on))
                                     : "It has " + all.front() + " to " + all.back() + "."};
    Stream s;
    s.id = freeId(d->streams, name);
    s.name = name;
    s.ports = ports;
    s.samples = bits == 16 ? Stream::Samples::l16 : Stream::Samples::l24;
    s.packetMs = packetMs;
    if (ports.empty() || on == Transport::network)
        if (const auto wrong = stream::errorIn(formatOf(*d, s)))
            return *wrong;
    Device then = *d;
    then.streams.push_back(std::move(s));
    return changed(std::move(then), "Offer " + name);
}

Result<Edit> withdrawStream(const Project& p, const std::string& key) {
    const auto patched = patchedOf(p);
    const auto* o = patched.offer(key);
    if (!o)
        return Error{"There is no stream \"" + key.substr(0, 80) + "\"", "", ""};
    std::map<std::string, std::optional<Device>> then;
    for (const auto& d : p.devices) {
        Device one = d;
        const bool hears = letGo(one, key);
        if (d.id == o->device->id)
            std::erase_if(one.streams, [&](const Stream& s) { return s.id == o->stream->id; });
        if (hears || d.id == o->device->id)
            then[d.id] = std::move(one);
    }
    return setDevices(std::move(then), "Withdraw " + o->stream->name);
}

Result<Edit> hearStream(const Project& p, const std::string& key, const std::string& device, const std::string& slot) {
    const auto patched = patchedOf(p);
    const auto* o = patched.offer(key);
    if (!o)
        return Error{"There is no stream \"" + key.substr(0, 80) + "\"", "", ""};
    const auto* d = p.device(device);
    if (!d)
        return Error{"There is no device \"" + device.substr(0, 80) + "\"", "", ""};
    if (d == o->device)
        return Error{"offers " + o->stream->name + " itself", d->name, "Lead its sound within its program instead."};
    const char* on = wordOf(o->transport);
    const auto all = portsOn(*d, true, o->transport);
    const auto first = slot.empty() ? all.begin() : std::find(all.begin(), all.end(), slot);
    if (first == all.end())
        return Error{all.empty() ? print("hears nothing over the %s", on)
                                 : print("has no %s input \"", on) + slot.substr(0, 40) + "\"",
                     d->name, all.empty() ? "" : "It has " + all.front() + " to " + all.back() + "."};
    const auto taken = takenSlots(*d);
    Receiver r;
    for (auto it = first; it != all.end() && r.inputs.size() < o->stream->ports.size(); ++it) {
        if (!taken.count(*it))
            r.inputs.push_back(*it);
        else if (!slot.empty())
            return Error{*it + " hears something already", d->name, "Let it go first, or choose another input."};
    }
    if (r.inputs.size() < o->stream->ports.size())
        return Error{print("has %d free %s inputs; %s has %d channels", static_cast<int>(r.inputs.size()), on,
                           o->stream->name.c_str(), static_cast<int>(o->stream->ports.size())),
                     d->name, "Let go of a stream, or offer one with fewer channels."};
    r.id = freeId(d->receivers, o->stream->id);
    r.streams = {key};
    Device then = *d;
    then.receivers.push_back(std::move(r));
    return changed(std::move(then), d->name + " hears " + o->stream->name);
}

Result<Edit> unhearStream(const Project& p, const std::string& key, const std::string& device) {
    const auto* d = p.device(device);
    if (!d)
        return Error{"There is no device \"" + device.substr(0, 80) + "\"", "", ""};
    Device then = *d;
    if (!letGo(then, key))
        return Error{"does not hear " + key.substr(0, 80), d->name, ""};
    return changed(std::move(then), d->name + " lets go of " + key);
}

} // namespace loom::project
