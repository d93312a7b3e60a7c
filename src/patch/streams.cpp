#include "patch/streams.h"
#include "dsp/number.h"
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

// ASCII only: what the sheet reader's folded() makes one, such as all letters of other scripts, stays apart in names.
std::string lowered(std::string text) {
    for (char& c : text)
        c = c >= 'A' && c <= 'Z' ? static_cast<char>(c + 32) : c;
    return text;
}

std::vector<std::string> networkPorts(const Device& d, bool input) {
    std::vector<std::string> all;
    if (const auto* m = d.spec())
        for (const auto& port : m->ports(input))
            if (port.rfind(networkPort, 0) == 0)
                all.push_back(port);
    return all;
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

} // namespace

std::vector<Hearing> hearingsOf(const Project& p) {
    std::set<std::string> there;
    for (const auto& d : p.devices)
        for (const auto& s : d.streams)
            there.insert(d.id + "/" + s.id);
    std::vector<Hearing> all;
    for (const auto& d : p.devices)
        for (const auto& r : d.receivers) {
            Hearing h{&d, &r, d.id + "/" + r.id, {}, false};
            if (r.chosen >= 0 && static_cast<std::size_t>(r.chosen) < r.streams.size())
                h.stream = r.streams[static_cast<std::size_t>(r.chosen)];
            h.waits = !h.stream.empty() && !there.count(h.stream);
            all.push_back(std::move(h));
        }
    return all;
}

std::vector<Offer> offersOf(const Project& p) {
    std::vector<Offer> all;
    std::set<std::string> used; // addresses
    std::map<std::string, std::vector<std::string>> heard;
    std::map<std::string, const Device*> by; // who hears a unicast one
    for (const auto& h : hearingsOf(p))
        if (!h.stream.empty()) {
            heard[h.stream].push_back(h.key);
            by.emplace(h.stream, h.device);
        }
    for (const auto& d : p.devices)
        for (const auto& s : d.streams)
            used.insert(s.address);
    for (const auto& d : p.devices)
        for (const auto& s : d.streams) {
            Offer o{&d, &s, d.id + "/" + s.id, {}, {}};
            const std::uint32_t hash = stream::numberOf(o.key);
            o.heardBy = heard[o.key];
            auto& t = o.description;
            t.name = s.name;
            t.session = hash;
            t.version = 1;
            t.origin = d.address;
            t.port = s.port;
            t.format = formatOf(d, s);
            if (s.unicast) {
                const auto to = by.find(o.key);
                t.address = to == by.end() ? std::string() : to->second->address;
            } else if (!s.address.empty()) {
                t.address = s.address;
            } else {
                std::uint32_t n = hash % 65534; // 239.20.0.1 to 239.20.255.254 (RFC 2365: 239.0.0.0/8 is ours to give)
                do {
                    t.address = print("239.20.%d.%d", static_cast<int>((n + 1) >> 8), static_cast<int>((n + 1) & 0xff));
                    n = (n + 1) % 65534;
                } while (!used.insert(t.address).second);
            }
            all.push_back(std::move(o));
        }
    return all;
}

const Offer* offerOf(const std::vector<Offer>& offers, const std::string& key) {
    const auto it = std::find_if(offers.begin(), offers.end(), [&](const Offer& o) { return o.key == key; });
    return it == offers.end() ? nullptr : &*it;
}

std::vector<StreamThread> streamThreads(const Project& p) {
    std::map<std::string, std::pair<const Device*, const Stream*>> there;
    for (const auto& d : p.devices)
        for (const auto& s : d.streams)
            there[d.id + "/" + s.id] = {&d, &s};
    std::vector<StreamThread> all;
    for (const auto& h : hearingsOf(p)) {
        const auto it = there.find(h.stream);
        if (it == there.end())
            continue;
        const auto& [from, s] = it->second;
        const double gain = factorOf(s->levelDb, s->muted, s->inverted) *
                            factorOf(h.receiver->levelDb, h.receiver->muted, h.receiver->inverted);
        for (std::size_t c = 0; c < std::min(s->ports.size(), h.receiver->inputs.size()); ++c)
            if (!h.receiver->inputs[c].empty())
                all.push_back({from->id, s->ports[c], h.device->id, h.receiver->inputs[c], gain});
    }
    return all;
}

NetworkUse networkUse(const std::vector<Offer>& offers, const std::vector<Hearing>& hearings,
                      const std::string& device) {
    NetworkUse u;
    std::set<std::string> out;
    for (const auto& o : offers)
        if (o.device->id == device) {
            const int flows = o.stream->unicast ? static_cast<int>(o.heardBy.size()) : 1;
            u.offered += flows;
            u.megabitsOut += flows * o.load().megabits();
            out.insert(o.stream->ports.begin(), o.stream->ports.end());
        }
    u.channelsOut = static_cast<int>(out.size());
    std::set<std::string> in, streams;
    for (const auto& h : hearings)
        if (h.device->id == device) {
            for (const auto& slot : h.receiver->inputs)
                if (!slot.empty())
                    in.insert(slot);
            if (const auto* o = offerOf(offers, h.stream); o && streams.insert(h.stream).second) {
                ++u.heard; // a stream that two receivers of one device hear comes once
                u.megabitsIn += o->load().megabits();
            }
        }
    u.channelsIn = static_cast<int>(in.size());
    return u;
}

Result<std::string> streamKey(const Project& p, const std::string& said) {
    const auto slash = said.find('/');
    const std::string device = slash == std::string::npos ? std::string() : lowered(said.substr(0, slash)),
                      stream = lowered(slash == std::string::npos ? said : said.substr(slash + 1));
    std::vector<std::string> found;
    for (const auto& d : p.devices)
        for (const auto& s : d.streams)
            if ((device.empty() || lowered(d.id) == device || lowered(d.name) == device) &&
                (lowered(s.id) == stream || lowered(s.name) == stream))
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
            if (lowered(s.name) == lowered(name) && other.soundNetwork == d->soundNetwork)
                return Error{"A stream is called \"" + s.name + "\" already", other.name, "Take another name."};
    const auto all = networkPorts(*d, false);
    for (const auto& port : ports)
        if (std::find(all.begin(), all.end(), port) == all.end())
            return Error{"has no network output \"" + port.substr(0, 40) + "\"", d->name,
                         all.empty() ? "It sends nothing over the network."
                                     : "It has " + all.front() + " to " + all.back() + "."};
    Stream s;
    s.id = freeId(d->streams, name);
    s.name = name;
    s.ports = ports;
    s.samples = bits == 16 ? Stream::Samples::l16 : Stream::Samples::l24;
    s.packetMs = packetMs;
    if (const auto wrong = stream::errorIn(formatOf(*d, s)))
        return *wrong;
    Device then = *d;
    then.streams.push_back(std::move(s));
    return changed(std::move(then), "Offer " + name);
}

Result<Edit> withdrawStream(const Project& p, const std::string& key) {
    const auto offers = offersOf(p);
    const auto* o = offerOf(offers, key);
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
    const auto offers = offersOf(p);
    const auto* o = offerOf(offers, key);
    if (!o)
        return Error{"There is no stream \"" + key.substr(0, 80) + "\"", "", ""};
    const auto* d = p.device(device);
    if (!d)
        return Error{"There is no device \"" + device.substr(0, 80) + "\"", "", ""};
    if (d == o->device)
        return Error{"offers " + o->stream->name + " itself", d->name, "Lead its sound within its program instead."};
    const auto all = networkPorts(*d, true);
    const auto first = slot.empty() ? all.begin() : std::find(all.begin(), all.end(), slot);
    if (first == all.end())
        return Error{all.empty() ? std::string("hears nothing over the network")
                                 : "has no network input \"" + slot.substr(0, 40) + "\"",
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
        return Error{print("has %d free network inputs; %s has %d channels", static_cast<int>(r.inputs.size()),
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
