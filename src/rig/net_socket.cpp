#include "rig/net_socket.h"
#include <arpa/inet.h>
#include <sys/socket.h>
#include <unistd.h>

namespace loom::rig {
namespace {

constexpr std::size_t longestPacket = 2048;

sockaddr_in placeOf(const std::string& address, int port) {
    sockaddr_in at{};
    at.sin_family = AF_INET;
    at.sin_port = htons(static_cast<std::uint16_t>(port));
    ::inet_pton(AF_INET, address.c_str(), &at.sin_addr);
    return at;
}

template <class T> void set(int socket, int level, int option, const T& value) {
    (void)::setsockopt(socket, level, option, &value, sizeof value);
}

void bindTo(int& socket, const sockaddr_in& at) {
    if (socket >= 0 && ::bind(socket, reinterpret_cast<const sockaddr*>(&at), sizeof at) != 0) {
        ::close(socket);
        socket = -1;
    }
}

} // namespace

std::uint32_t NetSocket::numberOf(const std::string& address) {
    return placeOf(address, 0).sin_addr.s_addr;
}

bool NetSocket::isGroup(const std::string& address) {
    return ntohl(numberOf(address)) >> 28 == 14;
}

NetSocket::NetSocket() : socket_(::socket(AF_INET, SOCK_DGRAM | SOCK_NONBLOCK | SOCK_CLOEXEC, 0)) {}

NetSocket::~NetSocket() {
    if (socket_ >= 0)
        ::close(socket_);
}

std::unique_ptr<NetSocket> NetSocket::sender(const std::string& address, const std::string& adapter) {
    std::unique_ptr<NetSocket> s(new NetSocket);
    const auto by = placeOf(adapter.empty() ? address : adapter, 0);
    const unsigned char ttl = adapter.empty() ? 0 : 1, loop = 1;
    set(s->socket_, IPPROTO_IP, IP_MULTICAST_IF, by.sin_addr);
    set(s->socket_, IPPROTO_IP, IP_MULTICAST_TTL, ttl);
    set(s->socket_, IPPROTO_IP, IP_MULTICAST_LOOP, loop);
    bindTo(s->socket_, by);
    return s;
}

std::unique_ptr<NetSocket> NetSocket::listener(const std::string& address, int port, const std::string& adapter) {
    std::unique_ptr<NetSocket> s(new NetSocket);
    const int on = 1, room = 4 << 20;
    set(s->socket_, SOL_SOCKET, SO_REUSEADDR, on);
    set(s->socket_, SOL_SOCKET, SO_RCVBUF, room);
    bindTo(s->socket_, placeOf(address, port));
    if (isGroup(address))
        set(s->socket_, IPPROTO_IP, IP_ADD_MEMBERSHIP,
            ip_mreq{placeOf(address, 0).sin_addr, placeOf(adapter.empty() ? "127.0.0.1" : adapter, 0).sin_addr});
    return s;
}

void NetSocket::send(const std::string& address, int port, std::span<const std::uint8_t> packet) {
    const auto at = placeOf(address, port);
    if (socket_ >= 0)
        (void)::sendto(socket_, packet.data(), packet.size(), 0, reinterpret_cast<const sockaddr*>(&at), sizeof at);
}

bool NetSocket::receive(std::vector<std::uint8_t>& packet, std::uint32_t& from) {
    packet.resize(longestPacket);
    sockaddr_in at{};
    socklen_t size = sizeof at;
    const auto n = socket_ < 0
                       ? -1
                       : ::recvfrom(socket_, packet.data(), packet.size(), 0, reinterpret_cast<sockaddr*>(&at), &size);
    if (n < 0)
        return false;
    from = at.sin_addr.s_addr;
    packet.resize(static_cast<std::size_t>(n));
    return true;
}

} // namespace loom::rig
