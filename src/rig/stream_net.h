// Streams between the devices of a rig. On the packet network as the open standards have it: RTP to groups or to one
// device, announced by SAP, sealed by SRTP where a device has a key (stream/), with the faults of its devices' lines
// and clocks; on audio rings sample by sample. Devices of others are heard, and not simulated.
#pragma once
#include "rig/net_clocks.h"
#include "rig/net_socket.h"
#include "stream/rtp.h"
#include "stream/srtp.h"
#include <functional>
#include <random>

namespace loom::rig {

// The key of one stream, of a device's key and the stream's own "device/stream": BLAKE2b of both.
stream::SrtpKey streamKeyOf(const site::Key& key, const std::string& stream);

// Functions belong to one thread but for states() and cut().
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
    bool empty() const { return sides_.empty(); } // nobody could offer or hear anything
    // Cables that do not work from now on, by id: what has another way takes it. Switches without power count as well.
    void cut(std::set<std::string> wires);
    // One block of everything: what lies on cables leaves as packets, packets that came go on to cables.
    void step();
    std::vector<State> states() const;

  private:
    struct Sender;
    struct Receiver;
    struct RingWay;
    void follow(); // what devices were told since, and what is cut
    void build();  // senders and receivers of project_; those that stay as they are go on
    void send(Sender& s);
    void announce();
    void takePackets();
    void arrive(Receiver& r, std::span<const std::uint8_t> packet); // with the faults of its line
    void take(Receiver& r, std::span<const std::uint8_t> packet);
    void hear(Receiver& r);
    void carry(RingWay& way);
    NetSocket* sending(const std::string& address);
    void buildSenders(const project::Patched& patched);
    void buildReceivers(const project::Patched& patched, const project::Wired& wired);
    double chance() { return std::uniform_real_distribution<double>(0, 1)(dice_); }

    std::string adapter_;
    project::Project project_{}; // as laid, with what devices were told since
    CableAt leaving_{}, arriving_{};
    std::map<std::string, std::shared_ptr<SoundSide>> sides_{};
    std::map<std::string, std::uint64_t> versions_{}; // of what sides were told
    project::Cut cut_{};                              // as built
    std::vector<std::unique_ptr<Sender>> senders_;
    std::vector<std::unique_ptr<Receiver>> receivers_;
    std::vector<std::unique_ptr<RingWay>> rings_;
    NetClocks clocks_;
    struct Place { // where packets go
        std::unique_ptr<NetSocket> socket;
        std::vector<Receiver*> hearers{};
    };
    std::map<std::string, std::unique_ptr<NetSocket>> out_; // by the address of the device
    std::map<std::pair<std::string, int>, Place> in_;
    std::mt19937 dice_{20}; // of what is lost, late and in another order: the same at each start
    std::uint64_t steps_ = 0;
    std::uint32_t now_; // of the media clock, in samples, at the beginning of a block
    mutable std::mutex door_;
    std::vector<State> states_;
    std::set<std::string> cutWires_{};
};

} // namespace loom::rig
