#include "rig/air.h"
#include <algorithm>
#include <arpa/inet.h>
#include <chrono>
#include <cmath>
#include <cstring>
#include <sys/socket.h>
#include <unistd.h>

namespace loom::rig {

using project::SoundEnd;

// ---- sides ----

void SoundSide::setAddress(const std::string& address) {
    const std::lock_guard inside(door_);
    address_ = address;
}
std::string SoundSide::address() const {
    const std::lock_guard inside(door_);
    return address_;
}
void SoundSide::setKey(const std::optional<site::Key>& key) {
    const std::lock_guard inside(door_);
    key_ = key;
}
std::optional<site::Key> SoundSide::key() const {
    const std::lock_guard inside(door_);
    return key_;
}
void SoundSide::hear(const std::string& port, const std::string& how) {
    const std::lock_guard inside(door_);
    heard_[port] = how;
}
std::map<std::string, std::string> SoundSide::heard() const {
    const std::lock_guard inside(door_);
    return heard_;
}

// ---- packets ----

namespace {

// "LS", whether it is sealed, the lead's number, when the sender began (ms since 1970), a count; then samples of 24
// bits, most significant byte first (as L24, RFC 3190), in the open or sealed.
constexpr std::size_t headSize = 17, epochAt = 5, countAt = 13;
constexpr int perPacket = 256;
constexpr int silentAfter = 20; // blocks

void putNumber(std::string& into, std::uint64_t number, int bytes) {
    for (int shift = 8 * (bytes - 1); shift >= 0; shift -= 8)
        into += static_cast<char>(number >> shift);
}

std::uint64_t numberIn(const std::string& from, std::size_t at, std::size_t bytes) {
    std::uint64_t n = 0;
    for (std::size_t i = 0; i < bytes; ++i)
        n = n << 8 | static_cast<unsigned char>(from[at + i]);
    return n;
}

std::string headOf(bool sealed, std::size_t lead, std::uint64_t epoch, std::uint32_t count) {
    std::string head = "LS";
    head += sealed ? '\1' : '\0';
    putNumber(head, lead, 2);
    putNumber(head, epoch, 8);
    putNumber(head, count, 4);
    return head;
}

std::uint64_t msNow() {
    return static_cast<std::uint64_t>(
        std::chrono::duration_cast<std::chrono::milliseconds>(std::chrono::system_clock::now().time_since_epoch())
            .count());
}

std::string pack(const float* samples) {
    std::string body;
    body.reserve(perPacket * 3);
    for (int i = 0; i < perPacket; ++i) {
        const auto v = static_cast<std::int32_t>(std::lround(std::clamp(samples[i], -1.0f, 1.0f) * 8388607.0f));
        for (const int shift : {16, 8, 0})
            body += static_cast<char>(v >> shift);
    }
    return body;
}

bool unpack(const std::string& body, float* samples) {
    if (body.size() != perPacket * 3)
        return false;
    for (std::size_t i = 0; i < perPacket; ++i) {
        const auto byte = [&](std::size_t k) {
            return static_cast<std::uint32_t>(static_cast<unsigned char>(body[3 * i + k]));
        };
        const auto v = static_cast<std::int32_t>((byte(0) << 24) | (byte(1) << 16) | (byte(2) << 8)) >> 8;
        samples[i] = static_cast<float>(v) / 8388607.0f;
    }
    return true;
}

} // namespace

// One device's end of the audio network.
class SoundSocket {
  public:
    explicit SoundSocket(const std::string& address) {
        socket_ = ::socket(AF_INET, SOCK_DGRAM | SOCK_NONBLOCK, 0);
        const auto at = placeOf(address);
        if (socket_ >= 0 && ::bind(socket_, reinterpret_cast<const sockaddr*>(&at), sizeof at) != 0) {
            ::close(socket_);
            socket_ = -1;
        }
    }
    ~SoundSocket() {
        if (socket_ >= 0)
            ::close(socket_);
    }
    SoundSocket(const SoundSocket&) = delete;
    SoundSocket& operator=(const SoundSocket&) = delete;
    void send(const std::string& address, const std::string& packet) {
        const auto at = placeOf(address);
        if (socket_ >= 0) // what does not leave is lost, as packets are
            (void)::sendto(socket_, packet.data(), packet.size(), 0, reinterpret_cast<const sockaddr*>(&at), sizeof at);
    }
    bool receive(std::string& packet) {
        packet.resize(2048);
        const auto n = socket_ < 0 ? -1 : ::recv(socket_, packet.data(), packet.size(), 0);
        if (n < 0)
            return false;
        packet.resize(static_cast<std::size_t>(n));
        return true;
    }

  private:
    static sockaddr_in placeOf(const std::string& address) {
        sockaddr_in at{};
        at.sin_family = AF_INET;
        at.sin_port = htons(soundPort);
        ::inet_pton(AF_INET, address.c_str(), &at.sin_addr);
        return at;
    }
    int socket_ = -1;
};

// ---- what lies where ----

Air::Air(double rate) : rate_(rate), epoch_(msNow()) {}

Air::~Air() {
    thread_.request_stop();
    if (thread_.joinable())
        thread_.join();
}

namespace {

template <class Map> typename Map::mapped_type at(const Map& map, const typename Map::key_type& key) {
    const auto it = map.find(key);
    return it == map.end() ? nullptr : it->second;
}

} // namespace

std::shared_ptr<engine::Cable> Air::leaving(const SoundEnd& end) const {
    return at(leaving_, end);
}
std::shared_ptr<engine::Cable> Air::arriving(const SoundEnd& end) const {
    return at(arriving_, end);
}
std::shared_ptr<SoundSide> Air::side(const std::string& device) const {
    return at(sides_, device);
}

void Air::lay(const project::Project& project) {
    const auto cable = [](auto& map, const SoundEnd& end) {
        auto& c = map[end];
        if (!c)
            c = std::make_shared<engine::Cable>();
        return c;
    };
    const auto known = [this](const std::string& device) {
        auto& s = sides_[device];
        if (!s)
            s = std::make_shared<SoundSide>();
        return s;
    };
    for (const auto& lead : project::leadsOf(project)) {
        Way w;
        w.lead = lead;
        w.fromSide = known(lead.from.device);
        w.toSide = known(lead.to.device);
        w.from.cable = cable(leaving_, lead.from);
        w.from.side = w.fromSide;
        w.to = cable(arriving_, lead.to);
        ways_.push_back(std::move(w));
    }
    for (const auto& end : project::microphoneInputs(project)) {
        cable(arriving_, end);
        known(end.device);
    }
    if (!project::microphoneInputs(project).empty() || !ways_.empty())
        for (const auto& end : project::drivingEnds(project)) {
            cable(leaving_, end);
            known(end.device);
        }
}

engine::Resources Air::joined(engine::Resources own, const std::string& device) const {
    engine::Resources r = own;
    r.feed = [this, device, feed = own.feed](const std::string& port, double rate) {
        return !feed || arriving({device, port}) ? engine::Feed{} : feed(port, rate);
    };
    r.arriving = [this, device](const std::string& port) { return arriving({device, port}); };
    r.leaving = [this, device](const std::string& port) { return leaving({device, port}); };
    return r;
}

void Air::furnish(const project::Project& project, std::stop_token stop) {
    for (const auto& b : project.buildings)
        for (const auto& space : project::spacesOf(b, nullptr)) {
            auto sound = project::roomSoundOf(project, space, nullptr, rate_, stop);
            if (stop.stop_requested())
                return;
            if (!sound.targets.empty() && !sound.sources.empty())
                add(std::move(sound));
        }
    furnished_ = true;
}

void Air::add(project::RoomSound sound) {
    auto r = std::make_unique<Room>(std::move(sound));
    const auto& s = r->sound;
    for (std::size_t i = 0; i < s.sources.size(); ++i) {
        Lane l;
        if (!s.sources[i].voice) {
            l.cable = leaving(s.sources[i].from);
            l.side = side(s.sources[i].from.device);
        }
        r->loudspeakers.push_back(std::move(l));
        for (std::size_t t = 0; t < s.targets.size(); ++t)
            r->convolver.set(i, t, s.response(i, t));
    }
    r->spoken.assign(s.sources.size(), 0);
    for (const auto& end : s.targets) {
        // An array is a device with an output; other microphones are at the end of a cable.
        const bool isOutput = std::any_of(ways_.begin(), ways_.end(), [&](const Way& w) { return w.lead.from == end; });
        r->ears.push_back(isOutput ? leaving(end) : arriving(end));
        r->earSides.push_back(isOutput ? side(end.device) : nullptr);
        r->out.emplace_back(block);
    }
    r->sound.responses.clear(); // the convolver has them
    rooms_.push_back(std::move(r));
}

// ---- at work ----

void Air::Lane::read() {
    if (!cable || !reader.read(*cable, samples.data(), block) || (side && side->quiet))
        std::fill(samples.begin(), samples.end(), 0.0f);
}

SoundSocket* Air::socketOf(const std::string& address) {
    if (address.empty())
        return nullptr;
    auto& s = sockets_[address];
    if (!s)
        s = std::make_unique<SoundSocket>(address);
    return s.get();
}

void Air::carry(Way& w, std::size_t number) {
    w.from.read();
    if (!w.lead.network) {
        for (float& v : w.from.samples)
            v = static_cast<float>(v * w.lead.gain);
        return w.to->write(w.from.samples.data(), block);
    }
    if (++w.silentFor == silentAfter)
        w.toSide->hear(w.lead.to.port, "none");
    if (!w.fromSide->plugged)
        return;
    auto* socket = socketOf(w.fromSide->address());
    const auto to = w.toSide->address();
    if (!socket || to.empty())
        return;
    const auto key = w.fromSide->key();
    for (int at = 0; at < block; at += perPacket) {
        const auto head = headOf(key.has_value(), number, epoch_, w.sent++);
        const auto body = pack(w.from.samples.data() + at);
        socket->send(to, head + (key ? site::sealPacket(*key, head, body) : body));
    }
}

void Air::takePackets() {
    std::string packet;
    float samples[perPacket];
    for (auto& [address, socket] : sockets_)
        while (socket->receive(packet)) {
            if (packet.size() < headSize || packet.compare(0, 2, "LS") != 0)
                continue;
            const auto number = static_cast<std::size_t>(numberIn(packet, 3, 2));
            if (number >= ways_.size())
                continue;
            auto& w = ways_[number];
            if (!w.toSide->plugged || w.toSide->address() != address)
                continue;
            const bool sealed = packet[2] != 0;
            const auto key = w.toSide->key();
            const auto head = packet.substr(0, headSize);
            auto body = std::optional(packet.substr(headSize));
            if (sealed != key.has_value())
                body.reset(); // who has a key takes nothing in the open
            else if (key)
                body = site::openPacket(*key, head, *body);
            if (sealed && body &&
                !w.heard.isNew(numberIn(head, epochAt, 8), static_cast<std::uint32_t>(numberIn(head, countAt, 4))))
                continue; // heard before: somebody plays it again
            w.silentFor = 0;
            if (!body || !unpack(*body, samples)) {
                w.toSide->hear(w.lead.to.port, "refused");
                continue;
            }
            w.toSide->hear(w.lead.to.port, sealed ? "encrypted" : "open");
            w.to->write(samples, perPacket);
        }
}

void Air::sound(Room& r) {
    std::vector<const float*> in(r.sound.sources.size());
    std::vector<float*> out;
    for (auto& o : r.out)
        out.push_back(o.data());
    for (std::size_t i = 0; i < in.size(); ++i) {
        auto& lane = r.loudspeakers[i];
        const auto& source = r.sound.sources[i];
        if (source.voice) {
            const auto& clip = source.voice->channels[0];
            for (float& v : lane.samples) {
                v = clip[r.spoken[i]];
                r.spoken[i] = (r.spoken[i] + 1) % clip.size();
            }
        } else {
            lane.read();
            for (float& v : lane.samples)
                v = std::clamp(v, static_cast<float>(-source.most), static_cast<float>(source.most));
        }
        in[i] = lane.samples.data();
    }
    r.convolver.process(in.data(), out.data());
    for (std::size_t t = 0; t < r.ears.size(); ++t) {
        if (r.earSides[t] && r.earSides[t]->quiet)
            std::fill(r.out[t].begin(), r.out[t].end(), 0.0f);
        r.ears[t]->write(r.out[t].data(), block);
    }
}

void Air::step() {
    for (auto& r : rooms_)
        sound(*r);
    for (std::size_t i = 0; i < ways_.size(); ++i) {
        carry(ways_[i], i);
        (void)socketOf(ways_[i].lead.network ? ways_[i].toSide->address() : std::string());
    }
    takePackets();
}

void Air::start(const project::Project& project) {
    // The project is copied: it may go before its rooms are worked out.
    thread_ = std::jthread([this, project](std::stop_token stop) {
        furnish(project, stop);
        const auto pace = std::chrono::duration_cast<std::chrono::steady_clock::duration>(
            std::chrono::duration<double>(block / rate_));
        for (auto due = std::chrono::steady_clock::now(); !stop.stop_requested();) {
            step();
            due += pace;
            if (const auto now = std::chrono::steady_clock::now(); now > due + 8 * pace)
                due = now; // however far behind, others get their turn
            std::this_thread::sleep_until(due);
        }
    });
}

} // namespace loom::rig
