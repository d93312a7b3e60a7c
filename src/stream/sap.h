// How streams are made known on a network (SAP, RFC 2974): packets, and what was announced so far.
#pragma once
#include "stream/sdp.h"
#include <map>
#include <span>
#include <vector>

namespace loom::stream {

struct Announcement {
    bool ends = false;      // the stream is taken back
    std::uint16_t hash = 0; // with the source it names one version of one description
    std::string source;     // IPv4 address of who announces
    std::string text;       // the description
    bool operator==(const Announcement&) const = default;
};

std::vector<std::uint8_t> sapPacket(const Announcement& a);
// Error: it is none, or one that cannot be read here (IPv6, encrypted, compressed, no description).
Result<Announcement> readSap(std::span<const std::uint8_t> packet);
// A number of 32 bits for a text: Fowler, Noll and Vo, 1a, its halves mixed. Sessions are named by it.
std::uint32_t numberOf(const std::string& text);
// Of a text, never 0 (RFC 2974 3: a hash of 0 says that there is none).
std::uint16_t sapHashOf(const std::string& text);

// What was announced and not taken back. Bounded, whatever floods in: what is known stays, new ones beyond are counted.
class Directory {
  public:
    static constexpr std::size_t most = 2000;
    static constexpr double forgottenAfter = 3600; // s; ten times the period if that is longer (RFC 2974 4)
    struct Entry {
        Description description{};
        std::string source{};
        std::uint16_t hash = 0;
        double first = 0, last = 0; // s
    };
    // A packet that came at `now`, in s of a clock that only rises. True: what is known changed.
    bool take(std::span<const std::uint8_t> packet, double now);
    bool forget(double now); // what was not heard of for too long; true: something was
    const std::map<std::string, Entry>& all() const { return all_; } // by source, session and name
    std::size_t refused() const { return refused_; }                 // packets that nothing was made of

  private:
    std::map<std::string, Entry> all_;
    std::size_t refused_ = 0;
};

} // namespace loom::stream
