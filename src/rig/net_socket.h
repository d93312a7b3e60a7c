// One end of the sound network: of a device that sends, or of a place that packets go to. IPv4 and UDP; never waits.
#pragma once
#include <cstdint>
#include <memory>
#include <span>
#include <string>
#include <vector>

namespace loom::rig {

class NetSocket {
  public:
    // adapter: address of the one that packets leave and come by; "": they stay on this machine (TTL 0).
    static std::unique_ptr<NetSocket> sender(const std::string& address, const std::string& adapter);
    static std::unique_ptr<NetSocket> listener(const std::string& address, int port, const std::string& adapter);
    ~NetSocket();
    NetSocket(const NetSocket&) = delete;
    NetSocket& operator=(const NetSocket&) = delete;
    // What does not leave is lost, as packets are.
    void send(const std::string& address, int port, std::span<const std::uint8_t> packet);
    // from: who sent it, as numberOf(). False: nothing is there.
    bool receive(std::vector<std::uint8_t>& packet, std::uint32_t& from);
    static std::uint32_t numberOf(const std::string& address); // in the order of the network
    static bool isGroup(const std::string& address);           // 224.0.0.0/4

  private:
    NetSocket();
    int socket_ = -1;
};

} // namespace loom::rig
