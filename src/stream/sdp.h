// Descriptions of streams as text (SDP, RFC 8866), as AES67 has them: written, and read from anybody.
#pragma once
#include "stream/format.h"
#include <optional>

namespace loom::stream {

inline constexpr std::size_t mostSdpBytes = 64 * 1024, mostSdpLines = 500;

struct Description {
    std::string name;                       // of the stream
    std::uint64_t session = 0, version = 0; // who changes it counts the version up
    std::string origin;                     // IPv4 address of the device that says it
    std::string address;                    // where its packets go: a group (224.0.0.0/4) or a device
    int ttl = 0;                            // of a group; 0: it stays on this machine
    int port = 5004;                        // UDP
    int payload = 98;                       // RTP's payload type, 96 to 127
    Format format{};
    std::string clock = "private"; // what its time stamps refer to (a=ts-refclk, RFC 7273 4), "": not said
    std::optional<std::uint32_t> clockOffset = 0; // of the time stamps against that clock (a=mediaclk:direct, 5.2)
    std::string source;  // packets of this sender only (a=source-filter, RFC 4570); "": of anyone
    bool sealed = false; // RTP/SAVP: its key is told elsewhere
    bool multicast() const;
    bool operator==(const Description&) const = default;
};

std::string sdpText(const Description& d); // lines end with CR LF (RFC 8866 5)

// The first audio stream of linear samples in it. Error: what is wrong in which line, or that it holds none. Bounded in
// size; attributes that nobody here knows are passed over.
Result<Description> readSdp(const std::string& text);

// Four numbers up to 255, parted by points.
bool isIpv4(const std::string& text);

} // namespace loom::stream
