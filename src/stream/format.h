// What a stream is made of, and what it takes of a network. Knows nothing of devices.
#pragma once
#include "engine/result.h"
#include <cstddef>
#include <cstdint>
#include <string>

namespace loom::stream {

// Samples as they stand in packets: big-endian, channels side by side (RFC 3551 4.5.11, RFC 3190 4).
enum class Encoding { l16, l24 };
const char* nameOf(Encoding encoding); // "L16", "L24"

// The most that a packet holds, so that every header fits into 1500 bytes whatever version of IP carries it
// (AES67-2018 7.1).
inline constexpr std::size_t mostPayload = 1440;
inline constexpr int mostChannels = 80;
inline constexpr std::size_t sealBytes = 16; // what AES-GCM adds to a packet (RFC 7714 13.1)

struct Format {
    Encoding encoding = Encoding::l24;
    int channels = 2;    // 1 to 80
    double rate = 48000; // Hz
    int frames = 48;     // samples of each channel in a packet
    std::size_t sampleBytes() const { return encoding == Encoding::l16 ? 2 : 3; }
    std::size_t payloadBytes() const {
        return static_cast<std::size_t>(channels) * static_cast<std::size_t>(frames) * sampleBytes();
    }
    double packetMs() const { return 1000.0 * frames / rate; }
    double packetsPerSecond() const { return rate / frames; }
    bool operator==(const Format&) const = default;
};

// Samples of a channel in a packet of so many ms, to the nearest: 0.125 ms at 48 kHz are 6.
int framesOf(double packetMs, double rate);
// How many channels a packet of this format may hold; 0: none.
int channelsThatFit(const Format& format);
// What is wrong with it, and what would fit.
std::optional<Error> errorIn(const Format& format);

// What one stream takes while it sounds, each second. IP: 20 bytes of IPv4 (RFC 791), 8 of UDP (RFC 768), 12 of RTP
// (RFC 3550 5.1). Ethernet (IEEE 802.3 clauses 3, 4.4.2; 802.1Q 9.6): preamble 8, addresses and type 14, tag 4 if there
// is one, at least 46 of payload, check 4, gap 12.
struct Load {
    double packets = 0;  // a second
    double ipBytes = 0;  // a second
    double wireBits = 0; // a second, with every header of the wire
    double megabits() const { return wireBits / 1e6; }
};
Load loadOf(const Format& format, bool sealed = false, bool tagged = false);

} // namespace loom::stream
