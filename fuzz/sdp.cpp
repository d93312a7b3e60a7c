// Descriptions of streams, announcements and packets from a network: what is taken can be written and read again, and
// what is put together is finite.
#include "stream/rtp.h"
#include "stream/sap.h"
#include "stream/srtp.h"
#include <cmath>
#include <cstdlib>

using namespace loom::stream;

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
    const std::string text(reinterpret_cast<const char*>(data), size);
    if (const auto d = readSdp(text)) {
        const auto again = readSdp(sdpText(*d));
        if (errorIn(d->format) || !again || again->format != d->format || again->address != d->address ||
            again->port != d->port || again->payload != d->payload || sdpText(*again) != sdpText(*d))
            std::abort();
    }
    const std::span<const std::uint8_t> bytes(data, size);
    if (const auto a = readSap(bytes); a && !a->ends) {
        const auto again = readSap(sapPacket(*a));
        if (!again || again->text != a->text || again->source != a->source)
            std::abort();
    }
    static Directory known;
    static double now = 0;
    known.take(bytes, now += 1);
    known.forget(now);
    if (known.all().size() > Directory::most)
        std::abort();
    // The input cut into packets by its own bytes.
    const Format f{Encoding::l24, 2, 48000, 6};
    PacketReader reader(f, 98, 24);
    float left[64], right[64];
    float* to[] = {left, right};
    for (std::size_t at = 0; at + 1 < size;) {
        const std::size_t length = std::min<std::size_t>(data[at] % 64, size - at - 1);
        std::vector<std::uint8_t> packet(data + at + 1, data + at + 1 + length);
        if (data[at] & 0x40) { // one that is nearly right
            packet.resize(rtpHeaderBytes + f.payloadBytes());
            packet[0] = 0x80;
            packet[1] = 98;
            packet[8] = packet[9] = packet[10] = packet[11] = 0;
        }
        reader.take(packet);
        const int frames = 1 + data[at] % 64;
        reader.read(to, frames);
        for (int k = 0; k < frames; ++k)
            if (!std::isfinite(left[k]) || !std::isfinite(right[k]))
                std::abort();
        at += 1 + length;
    }
    return 0;
}
