// Sound in packets (RTP, RFC 3550; L16 and L24, RFC 3551 and 3190): made, and put together again in the order of their
// time stamps, with what was lost concealed. Nothing here knows sockets. Objects belong to one thread.
#pragma once
#include "stream/conceal.h"
#include "stream/format.h"
#include <optional>
#include <span>
#include <vector>

namespace loom::stream {

inline constexpr std::size_t rtpHeaderBytes = 12;

struct RtpHeader {
    int payload = 0;
    std::uint16_t sequence = 0;
    std::uint32_t time = 0, source = 0; // samples; who sends
    bool marker = false;
    std::size_t begins = 0, ends = 0; // of the payload in the packet
};
// Nothing: it is no packet of RTP, or one whose lengths do not fit it.
std::optional<RtpHeader> readRtp(std::span<const std::uint8_t> packet);

// Full scale is 1; what is above is cut. L24 keeps every sample that is a multiple of 2^-23, bit for bit.
class PacketMaker {
  public:
    PacketMaker(const Format& format, int payload, std::uint32_t source, std::uint16_t sequence = 0,
                std::uint32_t time = 0);
    // The next packet of format.frames samples of each channel; valid until the next call. Allocates nothing.
    std::span<const std::uint8_t> next(const float* const* channels);
    std::uint32_t time() const { return time_; }       // of the next packet
    void setTime(std::uint32_t time) { time_ = time; } // after a pause

  private:
    Format format_;
    std::vector<std::uint8_t> packet_;
    std::uint16_t sequence_;
    std::uint32_t time_;
};

// Puts packets together. Sound is read `delay` samples after its packet was due, so that what comes late or out of
// order finds its place until then.
class PacketReader {
  public:
    struct Counts {
        std::uint64_t taken = 0;
        std::uint64_t lost = 0;     // packets whose sound was due and not there
        std::uint64_t late = 0;     // came when their sound was due
        std::uint64_t repeated = 0; // came twice
        std::uint64_t foreign = 0;  // of another sender, format or length; none
        std::uint64_t again = 0;    // began anew: the sender's time jumped, or packets had stopped
        bool operator==(const Counts&) const = default;
    };
    // delay: samples, at least those of one packet; at most 9600. Memory is taken here only.
    PacketReader(const Format& format, int payload, int delay);
    // now: what the sender's clock shows, where both have the same (AES67): sound is read `delay` samples after its
    // time stamp then; without it after its first packet came.
    void take(std::span<const std::uint8_t> packet, std::optional<std::uint32_t> now = {});
    // The next `frames` samples of each channel; silence before sound has come and after it has stopped.
    void read(float* const* channels, int frames);
    // The clock that it is read by went on by so many samples more (or fewer) than were read: those are left out, or
    // come again.
    void slip(int samples) { at_ += static_cast<std::uint32_t>(samples); }
    const Counts& counts() const { return counts_; }
    bool sounds() const { return running_; }
    int delay() const { return delay_; }
    // How many samples beyond the one that is read next have come: what the buffer holds now.
    int filled() const { return running_ ? static_cast<int>(newest_ - at_) : 0; }

  private:
    static std::uint32_t ringFor(int delay); // samples of a channel, a power of two
    static constexpr int context = 512;      // samples beside a gap that concealing looks at
    void start(const RtpHeader& h, std::optional<std::uint32_t> now);
    bool there(std::uint32_t time) const { return have_[time % ring_] == time; }
    bool came(std::uint32_t time) const { return there(time) && !made_[time % ring_]; }
    void conceal(std::uint32_t from, std::uint32_t to);

    Format format_;
    int payload_, delay_;
    std::uint32_t ring_;
    Counts counts_{};
    bool running_ = false;
    std::uint32_t source_ = 0, at_ = 0, newest_ = 0; // at_: time that is read next
    std::vector<float> samples_;                     // channel by channel, `ring_` each
    std::vector<std::uint32_t> have_;                // time of the sample at each place; another: it is not there
    std::vector<bool> made_;                         // ... and whether it was concealed
    std::vector<float> work_;
    Concealer concealer_;
};

} // namespace loom::stream
