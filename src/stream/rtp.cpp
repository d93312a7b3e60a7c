#include "stream/rtp.h"
#include <algorithm>
#include <bit>
#include <cmath>
#include <cstring>

namespace loom::stream {
namespace {

std::uint32_t word(const std::uint8_t* p) {
    return std::uint32_t(p[0]) << 24 | std::uint32_t(p[1]) << 16 | std::uint32_t(p[2]) << 8 | p[3];
}

} // namespace

std::optional<RtpHeader> readRtp(std::span<const std::uint8_t> p) {
    if (p.size() < rtpHeaderBytes || p[0] >> 6 != 2)
        return {};
    RtpHeader h;
    h.payload = p[1] & 0x7f;
    h.marker = (p[1] & 0x80) != 0;
    h.sequence = static_cast<std::uint16_t>(p[2] << 8 | p[3]);
    h.time = word(&p[4]);
    h.source = word(&p[8]);
    h.begins = rtpHeaderBytes + std::size_t(p[0] & 0x0f) * 4; // contributing sources
    h.ends = p.size();
    if (p[0] & 0x10) { // an extension: four bytes, the last two say how many words follow
        if (h.begins + 4 > p.size())
            return {};
        h.begins += 4 + std::size_t(p[h.begins + 2] << 8 | p[h.begins + 3]) * 4;
    }
    if (p[0] & 0x20) { // padding: its last byte says how much
        const std::size_t padding = p.back();
        if (padding == 0 || padding > p.size())
            return {};
        h.ends -= padding;
    }
    if (h.begins > h.ends)
        return {};
    return h;
}

// ---- made ----

PacketMaker::PacketMaker(const Format& format, int payload, std::uint32_t source, std::uint16_t sequence,
                         std::uint32_t time)
    : format_(format), packet_(rtpHeaderBytes + format.payloadBytes()), sequence_(sequence), time_(time) {
    packet_[0] = 0x80;
    packet_[1] = static_cast<std::uint8_t>(payload & 0x7f);
    for (std::size_t k = 0; k < 4; ++k)
        packet_[8 + k] = static_cast<std::uint8_t>(source >> (24 - 8 * k));
}

std::span<const std::uint8_t> PacketMaker::next(const float* const* channels) {
    packet_[2] = static_cast<std::uint8_t>(sequence_ >> 8);
    packet_[3] = static_cast<std::uint8_t>(sequence_);
    for (std::size_t k = 0; k < 4; ++k)
        packet_[4 + k] = static_cast<std::uint8_t>(time_ >> (24 - 8 * k));
    std::uint8_t* to = packet_.data() + rtpHeaderBytes;
    const bool wide = format_.encoding == Encoding::l24;
    const double full = wide ? 8388608.0 : 32768.0;
    for (int f = 0; f < format_.frames; ++f)
        for (int c = 0; c < format_.channels; ++c) {
            const double v = static_cast<double>(channels[c][f]) * full;
            const auto n = static_cast<std::int32_t>(std::lrint(std::isfinite(v) ? std::clamp(v, -full, full - 1) : 0));
            if (wide)
                *to++ = static_cast<std::uint8_t>(n >> 16);
            *to++ = static_cast<std::uint8_t>(n >> 8);
            *to++ = static_cast<std::uint8_t>(n);
        }
    ++sequence_;
    time_ += static_cast<std::uint32_t>(format_.frames);
    return packet_;
}

// ---- put together ----

std::uint32_t PacketReader::ringFor(int delay) {
    return std::bit_ceil(static_cast<std::uint32_t>(4 * delay + 4 * context)); // what is read, comes, and was
}

PacketReader::PacketReader(const Format& format, int payload, int delay)
    : format_(format), payload_(payload), delay_(std::clamp(delay, format.frames, 9600)), ring_(ringFor(delay_)),
      samples_(static_cast<std::size_t>(format.channels) * ring_), have_(ring_), made_(ring_), work_(Concealer::most) {}

void PacketReader::start(const RtpHeader& h, std::optional<std::uint32_t> now) {
    source_ = h.source;
    // A clock that is far from the time stamps is another one.
    const auto apart = now ? std::abs(static_cast<std::int64_t>(static_cast<std::int32_t>(h.time - *now))) : 0;
    at_ = (now && apart < ring_ / 4 ? *now : h.time) - static_cast<std::uint32_t>(delay_);
    newest_ = h.time;
    running_ = true;
    for (std::uint32_t n = 0; n < ring_; ++n)
        have_[n] = n + 1; // never its own time: nothing is there
    std::fill(samples_.begin(), samples_.end(), 0.0f);
}

void PacketReader::take(std::span<const std::uint8_t> packet, std::optional<std::uint32_t> now) {
    const auto h = readRtp(packet);
    if (!h || h->payload != payload_ || h->ends - h->begins != format_.payloadBytes()) {
        ++counts_.foreign;
        return;
    }
    const auto frames = static_cast<std::uint32_t>(format_.frames);
    if (!running_) {
        start(*h, now);
    } else if (h->source != source_) {
        ++counts_.foreign;
        return;
    } else {
        const auto ahead = static_cast<std::int32_t>(h->time - at_);
        // Beyond what the ring can hold on either side: its clock was set.
        if (ahead > static_cast<std::int32_t>(ring_ / 2) || ahead < -static_cast<std::int32_t>(ring_ / 2)) {
            ++counts_.again;
            start(*h, now);
        } else if (ahead + static_cast<std::int32_t>(frames) <= 0) {
            ++counts_.late;
            return;
        }
    }
    if (came(h->time) || came(h->time + frames - 1)) {
        ++counts_.repeated;
        return;
    }
    ++counts_.taken;
    const std::uint8_t* from = packet.data() + h->begins;
    const bool wide = format_.encoding == Encoding::l24;
    for (std::uint32_t f = 0; f < frames; ++f) {
        const std::uint32_t place = (h->time + f) % ring_;
        for (std::size_t c = 0; c < static_cast<std::size_t>(format_.channels); ++c) {
            float v = 0;
            if (wide) {
                const auto n = static_cast<std::int32_t>(std::uint32_t(from[0]) << 24 | std::uint32_t(from[1]) << 16 |
                                                         std::uint32_t(from[2]) << 8);
                v = static_cast<float>(n >> 8) / 8388608.0f;
                from += 3;
            } else {
                v = static_cast<float>(static_cast<std::int16_t>(from[0] << 8 | from[1])) / 32768.0f;
                from += 2;
            }
            samples_[c * ring_ + place] = v;
        }
        have_[place] = h->time + f;
        made_[place] = false;
    }
    if (static_cast<std::int32_t>(h->time + frames - newest_) > 0)
        newest_ = h->time + frames;
}

// [from, to) did not come: filled from what lies beside it, if it is short and something does.
void PacketReader::conceal(std::uint32_t from, std::uint32_t to) {
    const std::uint32_t missing = to - from;
    std::uint32_t behind = 0;
    while (behind < context && there(to + behind))
        ++behind;
    const bool fits = missing <= Concealer::longest;
    for (std::size_t c = 0; c < static_cast<std::size_t>(format_.channels); ++c) {
        float* s = &samples_[c * ring_];
        if (!fits) {
            for (std::uint32_t n = from; n != to; ++n)
                s[n % ring_] = 0;
            continue;
        }
        for (std::uint32_t k = 0; k < context + missing + behind; ++k)
            work_[k] = s[(from - context + k) % ring_];
        concealer_.fill({work_.data(), context + missing + behind}, context, context + missing);
        for (std::uint32_t k = 0; k < missing; ++k)
            s[(from + k) % ring_] = work_[context + k];
    }
    for (std::uint32_t n = from; n != to; ++n) {
        have_[n % ring_] = n;
        made_[n % ring_] = true;
    }
}

void PacketReader::read(float* const* channels, int frames) {
    const auto silence = [&](int from) {
        for (int c = 0; c < format_.channels; ++c)
            std::fill(channels[c] + from, channels[c] + frames, 0.0f);
    };
    if (!running_)
        return silence(0);
    const auto before = [](std::uint32_t a, std::uint32_t b) { return static_cast<std::int32_t>(b - a) > 0; };
    for (int f = 0; f < frames; ++f, ++at_) {
        if (!there(at_) && came(at_ - 1)) { // sound breaks off
            std::uint32_t end = at_;
            while (before(end, newest_) && !there(end))
                ++end;
            const auto packet = static_cast<std::uint32_t>(format_.frames);
            counts_.lost += end == at_ ? 1 : (end - at_ + packet - 1) / packet;
            // nothing more is there: it goes on and fades
            conceal(at_, end == at_ ? at_ + static_cast<std::uint32_t>(Concealer::longest) : end);
        }
        const bool sound = there(at_);
        for (std::size_t c = 0; c < static_cast<std::size_t>(format_.channels); ++c)
            channels[c][f] = sound ? samples_[c * ring_ + at_ % ring_] : 0.0f;
        if (static_cast<std::int32_t>(at_ - newest_) >= static_cast<std::int32_t>(format_.rate) / 10) {
            running_ = false; // it has stopped; what comes next begins anew
            ++counts_.again;
            return silence(f);
        }
    }
}

} // namespace loom::stream
