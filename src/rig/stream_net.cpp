#include "rig/stream_net.h"
#include "patch/delays.h"
#include "stream/sap.h"
#include <chrono>
#include <cmath>
#include <sodium.h>

namespace loom::rig {

namespace {

constexpr int silentAfter = 20;                          // blocks
constexpr int announceEvery = 10 * 48000 / soundBlock;   // blocks: sooner than RFC 2974 asks of large networks
constexpr const char* announceGroup = "239.255.255.255"; // of the administrative scope 239.0.0.0/8 (RFC 2974 3)
constexpr int announcePort = 9875;
constexpr int mostPackets = 20000; // in one step, whatever floods in
constexpr int mostApart = 64;      // samples that a clock may be set by within a block; else it begins anew
constexpr int clockEvery = 8;      // blocks
constexpr int lookedAt = 200;      // blocks

// Another number at every start, and one that rises: what was recorded of an earlier one is known by it.
std::uint32_t startNumber() {
    const auto now = std::chrono::system_clock::now().time_since_epoch();
    return static_cast<std::uint32_t>(std::chrono::duration_cast<std::chrono::milliseconds>(now).count() / 100);
}

float factorOf(double levelDb, bool muted, bool inverted) {
    return muted ? 0.0f : static_cast<float>(std::pow(10.0, levelDb / 20) * (inverted ? -1 : 1));
}

} // namespace

stream::SrtpKey streamKeyOf(const site::Key& key, const std::string& name) {
    stream::SrtpKey made{};
    (void)crypto_generichash(made.data(), made.size(), reinterpret_cast<const unsigned char*>(name.data()), name.size(),
                             reinterpret_cast<const unsigned char*>(key.data()), key.size());
    return made;
}

struct StreamNet::Sender {
    std::string made;        // what it was made from
    std::string device, key; // key: "device/stream"
    stream::Description description;
    std::shared_ptr<SoundSide> side;
    std::vector<std::shared_ptr<SoundSide>> to{}; // of a unicast one
    std::vector<SoundLane> lanes{};
    float gain = 1;
    stream::PacketMaker maker;
    std::vector<std::string> ports{};
    std::vector<std::vector<float>> waiting{}; // samples of each channel that fill no packet yet
    std::optional<site::Key> sealedBy{};
    std::optional<stream::Sealer> sealer{};
    bool heard = false; // by somebody here: it goes on while nothing sounds
    bool announced = false;
    std::uint16_t hash = 0;

    Sender(const project::Offer& o, std::shared_ptr<SoundSide> s)
        : device(o.device->id), key(o.key), description(o.description), side(std::move(s)),
          maker(description.format, description.payload, startNumber(), static_cast<std::uint16_t>(startNumber())),
          waiting(description.format.channels > 0 ? static_cast<std::size_t>(description.format.channels) : 0) {}
};

struct StreamNet::Receiver {
    std::string made;            // what it was made from
    std::string device, id, key; // key: of what it hears
    stream::Description wanted;
    std::shared_ptr<SoundSide> side, from; // from: null, of others
    stream::PacketReader reader;
    std::vector<std::string> ports{}; // by channel; "": not taken
    std::vector<std::shared_ptr<engine::Cable>> cables{};
    std::vector<std::vector<float>> samples{};
    float gain = 1;
    std::optional<site::Key> sealedBy{};
    std::optional<stream::Sealer> sealer{};
    std::uint32_t newest = 0; // start of the sender that is heard
    bool any = false;
    std::uint64_t refused = 0;
    int silentFor = 0;
    double delayMs = 0;
    int ahead = 0;                         // of its device's clock, as it was read last
    int looked = 0, filled = 0, held = -2; // of others: blocks, what the buffer held in all of them, and at first
    struct Late {
        std::uint64_t step; // by which its sound has been read
        std::vector<std::uint8_t> packet;
    };
    std::vector<Late> late{};
    std::vector<std::uint8_t> swap{}; // comes behind the next packet; empty: none

    Receiver(const project::Hearing& h, const project::Offer& o, int samples)
        : device(h.device->id), id(h.receiver->id), key(o.key), wanted(o.description),
          reader(o.description.format, o.description.payload, samples), delayMs(1000.0 * samples / h.device->rate) {}
    void say(const char* how) {
        for (const auto& port : ports)
            if (!port.empty())
                side->hear(port, how);
    }
};

// A stream of an audio ring to one receiver: whichever way round it goes, every channel takes as long.
struct StreamNet::RingWay {
    std::string made;
    std::shared_ptr<SoundSide> to;
    std::vector<SoundLane> lanes{};
    std::vector<std::string> from{}, ports{};
    std::vector<std::shared_ptr<engine::Cable>> cables{};
    std::vector<std::vector<float>> waiting{}; // samples on their way
    float gain = 1;
};

StreamNet::StreamNet(std::string adapter) : adapter_(std::move(adapter)), now_(startNumber() * 4800) {}

StreamNet::~StreamNet() {
    for (auto& s : senders_)
        if (s->announced)
            if (auto* out = sending(s->side->address()))
                out->send(announceGroup, announcePort,
                          stream::sapPacket({true, s->hash, s->side->address(), stream::sdpText(s->description)}));
}

void StreamNet::lay(const project::Project& p, const CableAt& leaving, const CableAt& arriving, const SideOf& side) {
    project_ = p;
    leaving_ = leaving;
    arriving_ = arriving;
    for (const auto& d : p.devices)
        if (const auto* m = d.spec();
            m && m->onSite() &&
            (!d.streams.empty() || !d.receivers.empty() || m->soundNetwork || m->ring || m->bridges))
            sides_[d.id] = side(d.id);
    build();
}

void StreamNet::cut(std::set<std::string> wires) {
    const std::lock_guard inside(door_);
    cutWires_ = std::move(wires);
}

void StreamNet::follow() {
    bool changed = false;
    for (const auto& [id, side] : sides_) {
        const auto version = side->version();
        if (std::exchange(versions_[id], version) == version)
            continue;
        auto told = side->told();
        auto* d = told ? project_.device(id) : nullptr;
        if (!d || (d->streams == told->streams && d->receivers == told->receivers))
            continue;
        d->streams = std::move(told->streams);
        d->receivers = std::move(told->receivers);
        changed = true;
    }
    project::Cut now;
    {
        const std::lock_guard inside(door_);
        now.wires = cutWires_;
    }
    for (const auto& [id, side] : sides_) // others only fall silent themselves
        if (const auto* d = side->plugged && side->powered ? nullptr : std::as_const(project_).device(id))
            if (const auto* m = d->spec(); m && ((m->bridges && !side->plugged) || (m->ring && !side->powered)))
                now.devices.insert(id);
    if (now.wires != cut_.wires || now.devices != cut_.devices) {
        cut_ = std::move(now);
        changed = true;
    }
    if (changed)
        build();
}

namespace {

template <class List> auto taken(List& all, const std::string& made) -> typename List::value_type {
    for (auto& one : all)
        if (one && one->made == made)
            return std::move(one);
    return nullptr;
}

std::string listed(const std::vector<std::string>& ports) {
    std::string all;
    for (const auto& port : ports)
        all += port + "\n";
    return all;
}

template <class Map> auto sideAt(const Map& sides, const std::string& id) -> typename Map::mapped_type {
    const auto it = sides.find(id);
    return it == sides.end() ? nullptr : it->second;
}

} // namespace

void StreamNet::build() {
    const auto patched = project::patchedOf(project_);
    const auto wired = project::wiredOf(project_, patched, cut_);
    clocks_.set(project_, wired, sides_);
    buildSenders(patched);
    buildReceivers(patched, wired);
}

void StreamNet::buildSenders(const project::Patched& patched) {
    auto before = std::exchange(senders_, {});
    for (const auto& o : patched.offers) {
        const auto own = sideAt(sides_, o.device->id);
        if (!own || o.transport != project::Transport::network || stream::errorIn(o.description.format))
            continue;
        const std::string made = o.key + "\n" + stream::sdpText(o.description) + listed(o.stream->ports);
        auto s = taken(before, made);
        if (!s) {
            s = std::make_unique<Sender>(o, own);
            s->made = made;
            s->ports = o.stream->ports;
            for (const auto& port : s->ports) {
                SoundLane lane;
                lane.cable = leaving_(o.device->id, port);
                lane.side = s->side;
                s->lanes.push_back(std::move(lane));
            }
        }
        s->heard = !o.heardBy.empty();
        s->gain = factorOf(o.stream->levelDb, o.stream->muted, o.stream->inverted);
        s->to.clear();
        if (o.stream->unicast)
            for (const auto h : o.heardBy)
                if (auto to = sideAt(sides_, patched.hearings[h].device->id))
                    s->to.push_back(std::move(to));
        senders_.push_back(std::move(s));
    }
}

void StreamNet::buildReceivers(const project::Patched& patched, const project::Wired& wired) {
    auto heard = std::exchange(receivers_, {});
    auto round = std::exchange(rings_, {});
    std::map<std::string, std::set<std::string>> hearing; // inputs by device
    for (std::size_t n = 0; n < patched.hearings.size(); ++n) {
        const auto& h = patched.hearings[n];
        const auto* way = wired.delivery(n);
        const auto own = sideAt(sides_, h.device->id);
        if (!way || !own)
            continue;
        const auto& o = patched.offers[way->offer];
        const auto from = sideAt(sides_, o.device->id);
        const bool outside = project::isOutside(*o.device);
        if ((!from && !outside) || stream::errorIn(o.description.format))
            continue;
        if (!way->runs || o.transport == project::Transport::network)
            hearing[h.device->id].insert(h.receiver->inputs.begin(), h.receiver->inputs.end());
        if (!way->runs) {
            for (const auto& input : h.receiver->inputs)
                if (!input.empty())
                    own->hear(input, "none");
            continue;
        }
        const double ms = project::delayOf(project_, patched, wired, *way).total();
        int samples =
            std::clamp(static_cast<int>(std::lround(ms * h.device->rate / 1000)), o.description.format.frames, 9600);
        const std::string made = h.key + "\n" + o.key + "\n" + stream::sdpText(o.description) +
                                 std::to_string(samples) + "\n" + listed(h.receiver->inputs);
        auto ports = h.receiver->inputs;
        ports.resize(static_cast<std::size_t>(o.description.format.channels));
        const auto cables = [&] {
            std::vector<std::shared_ptr<engine::Cable>> all;
            all.reserve(ports.size());
            for (const auto& port : ports)
                all.push_back(port.empty() ? nullptr : arriving_(h.device->id, port));
            return all;
        };
        const float gain = factorOf(h.receiver->levelDb, h.receiver->muted, h.receiver->inverted);
        if (o.transport == project::Transport::ring) {
            auto r = taken(round, made);
            if (!r) {
                r = std::make_unique<RingWay>();
                r->made = made;
                r->to = own;
                r->from = o.stream->ports;
                r->ports = ports;
                r->cables = cables();
                r->waiting.assign(ports.size(), std::vector<float>(
                                                    static_cast<std::size_t>(std::lround(ms * h.device->rate / 1000))));
                for (const auto& port : r->from) {
                    SoundLane lane;
                    lane.cable = leaving_(o.device->id, port);
                    lane.side = from;
                    r->lanes.push_back(std::move(lane));
                }
            }
            r->gain = gain * factorOf(o.stream->levelDb, o.stream->muted, o.stream->inverted);
            rings_.push_back(std::move(r));
            continue;
        }
        if (outside) // what is not simulated comes evenly, and the rig works in blocks
            samples = std::clamp(samples + 2 * soundBlock, 0, 9600);
        auto r = taken(heard, made);
        if (!r) {
            r = std::make_unique<Receiver>(h, o, samples);
            r->made = made;
            r->side = own;
            r->from = from;
            r->ports = ports;
            r->cables = cables();
            r->samples.assign(r->ports.size(), std::vector<float>(soundBlock));
            r->ahead = clocks_.ahead(h.device->id);
        }
        r->gain = gain;
        receivers_.push_back(std::move(r));
    }
    for (const auto& [id, side] : sides_)
        side->forgetAllBut(hearing[id]);
}

NetSocket* StreamNet::sending(const std::string& address) {
    if (address.empty())
        return nullptr;
    auto& s = out_[address];
    if (!s)
        s = NetSocket::sender(address, adapter_);
    return s.get();
}

// ---- at work ----

void StreamNet::send(Sender& s) {
    bool sounds = false;
    for (std::size_t c = 0; c < s.lanes.size(); ++c) {
        const bool sound = s.lanes[c].read();
        sounds = sounds || sound;
        s.side->level(SoundSide::Way::leaves, s.ports[c], sound ? peakOf(s.lanes[c].samples) * std::abs(s.gain) : 0);
    }
    auto* out = (sounds || s.heard) && s.side->plugged ? sending(s.side->address()) : nullptr;
    if (!out) {
        for (auto& w : s.waiting)
            w.clear();
        return;
    }
    if (const auto key = s.side->key(); key != s.sealedBy) {
        s.sealedBy = key;
        s.sealer.reset();
        if (key)
            if (auto sealer = stream::Sealer::sending(streamKeyOf(*key, s.key)))
                s.sealer = std::move(*sealer);
        s.announced = false;
    }
    // What its clock shows beyond what it has sent: nothing, unless it runs apart; much after a pause.
    const auto time = now_ + static_cast<std::uint32_t>(clocks_.ahead(s.device));
    int apart =
        s.waiting.empty()
            ? mostApart + 1
            : static_cast<std::int32_t>(time - s.maker.time() - static_cast<std::uint32_t>(s.waiting[0].size()));
    if (std::abs(apart) > mostApart) {
        for (auto& w : s.waiting)
            w.clear();
        s.maker.setTime(time);
        apart = 0;
    }
    for (std::size_t c = 0; c < s.waiting.size(); ++c) { // a sample comes again, or is left out
        const auto& block = s.lanes[c].samples;
        s.waiting[c].insert(s.waiting[c].end(), static_cast<std::size_t>(std::max(apart, 0)), block[0] * s.gain);
        for (std::size_t i = static_cast<std::size_t>(std::max(-apart, 0)); i < block.size(); ++i)
            s.waiting[c].push_back(block[i] * s.gain);
    }
    const auto frames = static_cast<std::size_t>(s.description.format.frames);
    const auto count = s.waiting.empty() ? 0 : s.waiting[0].size() / frames;
    std::vector<const float*> channels(s.waiting.size());
    for (std::size_t n = 0; n < count; ++n) {
        for (std::size_t c = 0; c < channels.size(); ++c)
            channels[c] = s.waiting[c].data() + n * frames;
        auto packet = s.maker.next(channels.data());
        if (s.sealedBy)
            packet = s.sealer ? s.sealer->seal(packet) : std::span<const std::uint8_t>();
        if (packet.empty())
            continue;
        if (s.to.empty())
            out->send(s.description.address, s.description.port, packet);
        for (const auto& to : s.to)
            if (const auto address = to->address(); !address.empty())
                out->send(address, s.description.port, packet);
    }
    for (auto& w : s.waiting)
        w.erase(w.begin(), w.begin() + static_cast<std::ptrdiff_t>(count * frames));
}

// One after the other, each again after a while.
void StreamNet::announce() {
    for (std::size_t n = 0; n < senders_.size(); ++n) {
        auto& s = *senders_[n];
        const bool turn = (steps_ + n * announceEvery / std::max<std::size_t>(senders_.size(), 1)) % announceEvery == 0;
        if ((s.announced && !turn) || !s.side->plugged || !s.to.empty())
            continue;
        const auto address = s.side->address();
        auto* out = sending(address);
        if (!out)
            continue;
        s.description.origin = address;
        s.description.sealed = s.sealedBy.has_value();
        const std::string text = stream::sdpText(s.description);
        s.hash = stream::sapHashOf(text);
        out->send(announceGroup, announcePort, stream::sapPacket({false, s.hash, address, text}));
        s.announced = true;
    }
}

void StreamNet::take(Receiver& r, std::span<const std::uint8_t> packet) {
    if (const auto key = r.side->key(); key != r.sealedBy) {
        r.sealedBy = key;
        r.sealer.reset();
        if (key)
            if (auto sealer = stream::Sealer::hearing(streamKeyOf(*key, r.key)))
                r.sealer = std::move(*sealer);
    }
    const auto refused = [&] {
        ++r.refused;
        r.silentFor = 0;
        r.say("refused");
    };
    if (r.sealedBy) { // who has a key takes nothing in the open
        const auto opened = r.sealer ? r.sealer->open(packet) : std::span<const std::uint8_t>();
        if (opened.empty())
            return refused();
        packet = opened;
    }
    const auto head = stream::readRtp(packet);
    if (r.sealedBy && head) { // of an earlier start: somebody plays it again
        if (r.any && static_cast<std::int32_t>(head->source - r.newest) < 0)
            return refused();
        r.newest = head->source;
        r.any = true;
    }
    const auto before = r.reader.counts().foreign;
    std::optional<std::uint32_t> now; // of others nobody knows the clock
    if (r.from)
        now = now_ + static_cast<std::uint32_t>(clocks_.ahead(r.device));
    r.reader.take(packet, now);
    if (r.reader.counts().foreign > before)
        return refused();
    r.silentFor = 0;
    r.say(r.sealedBy ? "encrypted" : "open");
}

// What a line does to packets that come by it: lost, so late that their sound was due, or behind the next one.
void StreamNet::arrive(Receiver& r, std::span<const std::uint8_t> packet) {
    const auto faults = r.side->faults();
    const auto sent = r.from ? r.from->faults() : NetFaults{};
    if (const double loss = 1 - (1 - faults.loss) * (1 - sent.loss); loss > 0 && chance() < loss)
        return;
    const double jitter = (faults.jitterMs + sent.jitterMs) * 48;
    if (jitter > 0 && chance() * jitter > r.reader.delay() - r.wanted.format.frames) {
        const auto blocks = static_cast<std::uint64_t>(r.reader.delay()) / soundBlock + 2;
        r.late.push_back({steps_ + blocks, {packet.begin(), packet.end()}});
        return;
    }
    if (std::max(faults.reorder, sent.reorder) > 0 && r.swap.empty() &&
        chance() < std::max(faults.reorder, sent.reorder)) {
        r.swap.assign(packet.begin(), packet.end());
        return;
    }
    take(r, packet);
    if (const auto before = std::exchange(r.swap, {}); !before.empty())
        take(r, before);
}

void StreamNet::takePackets() {
    // Where packets go may change with the address of a device.
    for (auto& [_, place] : in_)
        place.hearers.clear();
    for (auto& r : receivers_) {
        while (!r->late.empty() && r->late.front().step <= steps_) {
            take(*r, r->late.front().packet);
            r->late.erase(r->late.begin());
        }
        const bool group = NetSocket::isGroup(r->wanted.address);
        const std::string address = group ? r->wanted.address : r->side->address();
        if (address.empty() || !r->side->plugged)
            continue;
        auto& place = in_[{address, r->wanted.port}];
        if (!place.socket)
            place.socket = NetSocket::listener(address, r->wanted.port, adapter_);
        place.hearers.push_back(r.get());
    }
    std::erase_if(in_, [](const auto& one) { return one.second.hearers.empty(); });
    // Only packets of the device whose stream it is are taken.
    const auto meant = [&](const Receiver& r, std::uint32_t from) {
        if (!r.from)
            return r.wanted.source.empty() || from == NetSocket::numberOf(r.wanted.source);
        return !adapter_.empty() || from == NetSocket::numberOf(r.from->address());
    };
    std::vector<std::uint8_t> packet;
    std::uint32_t from = 0;
    int left = mostPackets;
    for (auto& [_, place] : in_)
        while (left-- > 0 && place.socket->receive(packet, from))
            for (auto* r : place.hearers)
                meant(*r, from) ? arrive(*r, packet) : void(++r->refused);
}

void StreamNet::hear(Receiver& r) {
    if (++r.silentFor == silentAfter)
        r.say("none");
    if (r.from) { // its own clock went on by another count than it was read
        const int ahead = clocks_.ahead(r.device);
        if (const int apart = ahead - std::exchange(r.ahead, ahead); apart != 0)
            r.reader.slip(apart);
    } else if (!r.reader.sounds()) {
        r.looked = r.filled = 0;
        r.held = -2;
    } else { // nobody's clock leads here: what the buffer holds on average tells which of the two is faster
        r.filled += r.reader.filled();
        if (++r.looked == lookedAt) {
            const auto mean = static_cast<int>(r.filled / lookedAt);
            if (r.held < 0) // not of the first blocks, while it fills
                r.held = r.held < -1 ? -1 : mean;
            else if (std::abs(mean - r.held) > mostApart)
                r.reader.slip(mean > r.held ? 1 : -1);
            r.looked = r.filled = 0;
        }
    }
    std::vector<float*> to;
    for (auto& s : r.samples)
        to.push_back(s.data());
    r.reader.read(to.data(), soundBlock);
    for (std::size_t c = 0; c < r.cables.size(); ++c) {
        if (!r.cables[c])
            continue;
        for (float& v : r.samples[c])
            v *= r.gain;
        r.side->level(SoundSide::Way::comes, r.ports[c], peakOf(r.samples[c]));
        r.cables[c]->write(r.samples[c].data(), soundBlock);
    }
}

void StreamNet::carry(RingWay& r) {
    for (std::size_t c = 0; c < r.lanes.size(); ++c) {
        auto& lane = r.lanes[c];
        lane.read();
        lane.side->level(SoundSide::Way::leaves, r.from[c], peakOf(lane.samples));
        if (c >= r.cables.size() || !r.cables[c])
            continue;
        auto& waiting = r.waiting[c];
        for (const float v : lane.samples)
            waiting.push_back(v * r.gain);
        const std::vector<float> now(waiting.begin(), waiting.begin() + soundBlock);
        waiting.erase(waiting.begin(), waiting.begin() + soundBlock);
        r.to->level(SoundSide::Way::comes, r.ports[c], peakOf(now));
        r.cables[c]->write(now.data(), soundBlock);
    }
}

void StreamNet::step() {
    follow();
    if (steps_ % clockEvery == 0)
        clocks_.step(clockEvery * soundBlock);
    announce();
    for (auto& s : senders_)
        send(*s);
    takePackets();
    for (auto& r : receivers_)
        hear(*r);
    for (auto& r : rings_)
        carry(*r);
    ++steps_;
    now_ += soundBlock;
    std::vector<State> now;
    now.reserve(receivers_.size());
    for (const auto& r : receivers_)
        now.push_back({r->device, r->id, r->key, r->reader.counts(), r->refused, r->delayMs});
    const std::lock_guard inside(door_);
    states_.swap(now);
}

std::vector<StreamNet::State> StreamNet::states() const {
    const std::lock_guard inside(door_);
    return states_;
}

} // namespace loom::rig
