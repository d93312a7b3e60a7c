#include "rig/stream_net.h"
#include "patch/delays.h"
#include "stream/sap.h"
#include <arpa/inet.h>
#include <chrono>
#include <cmath>
#include <sodium.h>
#include <sys/socket.h>
#include <unistd.h>

namespace loom::rig {

namespace {

constexpr int silentAfter = 20;                          // blocks
constexpr int announceEvery = 10 * 48000 / soundBlock;   // blocks: sooner than RFC 2974 asks of large networks
constexpr const char* announceGroup = "239.255.255.255"; // of the administrative scope 239.0.0.0/8 (RFC 2974 3)
constexpr int announcePort = 9875;
constexpr int mostPackets = 20000; // in one step, whatever floods in

sockaddr_in placeOf(const std::string& address, int port) {
    sockaddr_in at{};
    at.sin_family = AF_INET;
    at.sin_port = htons(static_cast<std::uint16_t>(port));
    ::inet_pton(AF_INET, address.c_str(), &at.sin_addr);
    return at;
}

bool isGroup(const std::string& address) {
    const auto at = ntohl(placeOf(address, 0).sin_addr.s_addr);
    return at >> 28 == 14;
}

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

// One end of the network: of a device that sends, or of a place that packets go to.
class StreamNet::Socket {
  public:
    static std::unique_ptr<Socket> sender(const std::string& address, const std::string& adapter) {
        auto s = std::make_unique<Socket>();
        const auto at = placeOf(address, 0);
        const auto by = placeOf(adapter.empty() ? address : adapter, 0).sin_addr;
        const unsigned char ttl = adapter.empty() ? 0 : 1, loop = 1;
        s->set(IPPROTO_IP, IP_MULTICAST_IF, by);
        s->set(IPPROTO_IP, IP_MULTICAST_TTL, ttl);
        s->set(IPPROTO_IP, IP_MULTICAST_LOOP, loop);
        s->bindTo(adapter.empty() ? at : placeOf(adapter, 0));
        return s;
    }
    static std::unique_ptr<Socket> listener(const std::string& address, int port, const std::string& adapter) {
        auto s = std::make_unique<Socket>();
        const int on = 1, room = 4 << 20;
        s->set(SOL_SOCKET, SO_REUSEADDR, on);
        s->set(SOL_SOCKET, SO_RCVBUF, room);
        s->bindTo(placeOf(address, port));
        if (isGroup(address)) {
            ip_mreq join{placeOf(address, 0).sin_addr, placeOf(adapter.empty() ? "127.0.0.1" : adapter, 0).sin_addr};
            s->set(IPPROTO_IP, IP_ADD_MEMBERSHIP, join);
        }
        return s;
    }
    Socket() : socket_(::socket(AF_INET, SOCK_DGRAM | SOCK_NONBLOCK | SOCK_CLOEXEC, 0)) {}
    ~Socket() {
        if (socket_ >= 0)
            ::close(socket_);
    }
    Socket(const Socket&) = delete;
    Socket& operator=(const Socket&) = delete;
    void send(const std::string& address, int port, std::span<const std::uint8_t> packet) {
        const auto at = placeOf(address, port);
        if (socket_ >= 0) // what does not leave is lost, as packets are
            (void)::sendto(socket_, packet.data(), packet.size(), 0, reinterpret_cast<const sockaddr*>(&at), sizeof at);
    }
    // from: who sent it, as a number.
    bool receive(std::vector<std::uint8_t>& packet, std::uint32_t& from) {
        packet.resize(2048);
        sockaddr_in at{};
        socklen_t size = sizeof at;
        const auto n =
            socket_ < 0 ? -1
                        : ::recvfrom(socket_, packet.data(), packet.size(), 0, reinterpret_cast<sockaddr*>(&at), &size);
        if (n < 0)
            return false;
        from = at.sin_addr.s_addr;
        packet.resize(static_cast<std::size_t>(n));
        return true;
    }
    std::vector<Receiver*> hearers{};

  private:
    template <class T> void set(int level, int option, const T& value) {
        (void)::setsockopt(socket_, level, option, &value, sizeof value);
    }
    void bindTo(const sockaddr_in& at) {
        if (socket_ >= 0 && ::bind(socket_, reinterpret_cast<const sockaddr*>(&at), sizeof at) != 0) {
            ::close(socket_);
            socket_ = -1;
        }
    }
    int socket_ = -1;
};

struct StreamNet::Sender {
    std::string made; // what it was made from
    std::string key;  // "device/stream"
    stream::Description description;
    std::shared_ptr<SoundSide> side;
    std::vector<std::shared_ptr<SoundSide>> to{}; // of a unicast one
    std::vector<SoundLane> lanes{};
    float gain = 1;
    stream::PacketMaker maker;
    std::vector<std::vector<float>> waiting{}; // samples of each channel that fill no packet yet
    std::optional<site::Key> sealedBy{};
    std::optional<stream::Sealer> sealer{};
    bool heard = false; // by somebody here: it goes on while nothing sounds
    bool announced = false;
    std::uint16_t hash = 0;

    Sender(const project::Offer& o, std::shared_ptr<SoundSide> s)
        : key(o.key), description(o.description), side(std::move(s)),
          maker(description.format, description.payload, startNumber(), static_cast<std::uint16_t>(startNumber())),
          waiting(description.format.channels > 0 ? static_cast<std::size_t>(description.format.channels) : 0) {}
};

struct StreamNet::Receiver {
    std::string made;            // what it was made from
    std::string device, id, key; // key: of what it hears
    stream::Description wanted;
    std::shared_ptr<SoundSide> side, from;
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

    Receiver(const project::Hearing& h, const project::Offer& o, double ms)
        : device(h.device->id), id(h.receiver->id), key(o.key), wanted(o.description),
          reader(
              o.description.format, o.description.payload,
              std::clamp(static_cast<int>(std::lround(ms * h.device->rate / 1000)), o.description.format.frames, 9600)),
          delayMs(ms) {}
    void say(const char* how) {
        for (const auto& port : ports)
            if (!port.empty())
                side->hear(port, how);
    }
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
        if (const auto* m = d.spec(); m && (!d.streams.empty() || !d.receivers.empty() || m->soundNetwork))
            sides_[d.id] = side(d.id);
    build();
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

} // namespace

void StreamNet::build() {
    auto before = std::exchange(senders_, {});
    auto heard = std::exchange(receivers_, {});
    const auto patched = project::patchedOf(project_);
    const auto wired = project::wiredOf(project_, patched);
    const auto at = [this](const std::string& id) {
        const auto it = sides_.find(id);
        return it == sides_.end() ? nullptr : it->second;
    };
    for (const auto& o : patched.offers) {
        const auto own = at(o.device->id);
        if (!own || o.transport != project::Transport::network || stream::errorIn(o.description.format))
            continue;
        std::string made = o.key + "\n" + stream::sdpText(o.description);
        for (const auto& port : o.stream->ports)
            made += port + "\n";
        auto s = taken(before, made);
        if (!s) {
            s = std::make_unique<Sender>(o, own);
            s->made = made;
            for (const auto& port : o.stream->ports) {
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
                if (auto to = at(patched.hearings[h].device->id))
                    s->to.push_back(std::move(to));
        senders_.push_back(std::move(s));
    }
    std::map<std::string, std::set<std::string>> hearing; // inputs by device
    for (std::size_t n = 0; n < patched.hearings.size(); ++n) {
        const auto& h = patched.hearings[n];
        const auto* way = wired.delivery(n);
        const auto own = at(h.device->id);
        if (!way || !way->runs || !own)
            continue;
        const auto& o = patched.offers[way->offer];
        const auto from = at(o.device->id);
        if (!from || o.transport != project::Transport::network || stream::errorIn(o.description.format))
            continue;
        const double ms = project::delayOf(project_, patched, wired, *way).total();
        std::string made = h.key + "\n" + o.key + "\n" + stream::sdpText(o.description) + std::to_string(ms) + "\n";
        for (const auto& input : h.receiver->inputs)
            made += input + "\n";
        auto r = taken(heard, made);
        if (!r) {
            r = std::make_unique<Receiver>(h, o, ms);
            r->made = made;
            r->side = own;
            r->from = from;
            r->ports = h.receiver->inputs;
            r->ports.resize(static_cast<std::size_t>(o.description.format.channels));
            for (const auto& port : r->ports)
                r->cables.push_back(port.empty() ? nullptr : arriving_(h.device->id, port));
            r->samples.assign(r->ports.size(), std::vector<float>(soundBlock));
        }
        r->gain = factorOf(h.receiver->levelDb, h.receiver->muted, h.receiver->inverted);
        hearing[h.device->id].insert(r->ports.begin(), r->ports.end());
        receivers_.push_back(std::move(r));
    }
    for (const auto& [id, side] : sides_)
        side->forgetAllBut(hearing[id]);
}

StreamNet::Socket* StreamNet::sending(const std::string& address) {
    if (address.empty())
        return nullptr;
    auto& s = out_[address];
    if (!s)
        s = Socket::sender(address, adapter_);
    return s.get();
}

// ---- at work ----

void StreamNet::send(Sender& s) {
    bool sounds = false;
    for (auto& lane : s.lanes)
        sounds = lane.read() || sounds;
    auto* out = s.side->plugged ? sending(s.side->address()) : nullptr;
    if (!out || !(sounds || s.heard)) {
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
    if (s.waiting.empty() || s.maker.time() + static_cast<std::uint32_t>(s.waiting[0].size()) != now_) {
        for (auto& w : s.waiting) // there was a pause
            w.clear();
        s.maker.setTime(now_);
    }
    for (std::size_t c = 0; c < s.waiting.size(); ++c)
        for (const float v : s.lanes[c].samples)
            s.waiting[c].push_back(v * s.gain);
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
    r.reader.take(packet, now_);
    if (r.reader.counts().foreign > before)
        return refused();
    r.silentFor = 0;
    r.say(r.sealedBy ? "encrypted" : "open");
}

void StreamNet::takePackets() {
    // Where packets go may change with the address of a device.
    for (auto& [_, s] : in_)
        s->hearers.clear();
    for (auto& r : receivers_) {
        const bool group = isGroup(r->wanted.address);
        const std::string address = group ? r->wanted.address : r->side->address();
        if (address.empty() || !r->side->plugged)
            continue;
        auto& s = in_[{address, r->wanted.port}];
        if (!s)
            s = Socket::listener(address, r->wanted.port, adapter_);
        s->hearers.push_back(r.get());
    }
    std::erase_if(in_, [](const auto& one) { return one.second->hearers.empty(); });
    std::vector<std::uint8_t> packet;
    std::uint32_t from = 0;
    int left = mostPackets;
    for (auto& [_, s] : in_)
        while (left-- > 0 && s->receive(packet, from))
            for (auto* r : s->hearers)
                if (!adapter_.empty() || from == placeOf(r->from->address(), 0).sin_addr.s_addr)
                    take(*r, packet);
                else
                    ++r->refused; // not from the device whose stream it is
}

void StreamNet::hear(Receiver& r) {
    if (++r.silentFor == silentAfter)
        r.say("none");
    std::vector<float*> to;
    for (auto& s : r.samples)
        to.push_back(s.data());
    r.reader.read(to.data(), soundBlock);
    for (std::size_t c = 0; c < r.cables.size(); ++c) {
        if (!r.cables[c])
            continue;
        for (float& v : r.samples[c])
            v *= r.gain;
        r.cables[c]->write(r.samples[c].data(), soundBlock);
    }
}

void StreamNet::step() {
    follow();
    announce();
    for (auto& s : senders_)
        send(*s);
    takePackets();
    for (auto& r : receivers_)
        hear(*r);
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
