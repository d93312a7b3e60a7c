// The packet network between the devices of a rig, as the open standards have it: RTP to groups or to one device,
// announced by SAP, sealed by SRTP where a device has a key (stream/).
#pragma once
#include "patch/streams.h"
#include "rig/sound_side.h"
#include "stream/rtp.h"
#include "stream/srtp.h"
#include <functional>

namespace loom::rig {

// The key of one stream, of a device's key and the stream's own "device/stream": BLAKE2b of both.
stream::SrtpKey streamKeyOf(const site::Key& key, const std::string& stream);

// Functions belong to one thread but for states().
class StreamNet {
  public:
    using CableAt = std::function<std::shared_ptr<engine::Cable>(const std::string& device, const std::string& port)>;
    using SideOf = std::function<std::shared_ptr<SoundSide>(const std::string& device)>;
    struct State { // of one receiver
        std::string device, receiver, stream;
        stream::PacketReader::Counts counts{};
        std::uint64_t refused = 0; // not of its key
        double delayMs = 0;
    };
    // adapter: address of the one that packets leave by; "": none, they stay on this machine (TTL 0).
    explicit StreamNet(std::string adapter = {});
    ~StreamNet(); // streams are taken back
    StreamNet(const StreamNet&) = delete;
    StreamNet& operator=(const StreamNet&) = delete;

    // Senders and receivers of a project. Once; what devices are told later changes them while they run.
    void lay(const project::Project& project, const CableAt& leaving, const CableAt& arriving, const SideOf& side);
    bool empty() const { return senders_.empty() && receivers_.empty(); }
    // One block of everything: what lies on cables leaves as packets, packets that came go on to cables.
    void step();
    std::vector<State> states() const;

  private:
    struct Sender;
    struct Receiver;
    class Socket;
    void follow(); // what devices were told since
    void build();  // senders and receivers of project_; those that stay as they are go on
    void send(Sender& s);
    void announce();
    void takePackets();
    void take(Receiver& r, std::span<const std::uint8_t> packet);
    void hear(Receiver& r);
    Socket* sending(const std::string& address);

    std::string adapter_;
    project::Project project_{}; // as laid, with what devices were told since
    CableAt leaving_{}, arriving_{};
    std::map<std::string, std::shared_ptr<SoundSide>> sides_{};
    std::map<std::string, std::uint64_t> versions_{}; // of what sides were told
    std::vector<std::unique_ptr<Sender>> senders_;
    std::vector<std::unique_ptr<Receiver>> receivers_;
    std::map<std::string, std::unique_ptr<Socket>> out_;                // by the address of the device
    std::map<std::pair<std::string, int>, std::unique_ptr<Socket>> in_; // by where packets go
    std::uint64_t steps_ = 0;
    std::uint32_t now_; // of the media clock, in samples, at the beginning of a block
    mutable std::mutex door_;
    std::vector<State> states_;
};

} // namespace loom::rig
