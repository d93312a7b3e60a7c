#include "stream/format.h"
#include "dsp/number.h"
#include <algorithm>
#include <cmath>
#include <optional>

namespace loom::stream {
namespace {

constexpr std::size_t ipHeader = 20, udpHeader = 8, rtpHeader = 12;
constexpr std::size_t preamble = 8, ethernetHeader = 14, vlanTag = 4, leastPayload = 46, check = 4, gap = 12;

} // namespace

const char* nameOf(Encoding encoding) {
    return encoding == Encoding::l16 ? "L16" : "L24";
}

int framesOf(double packetMs, double rate) {
    return static_cast<int>(std::lround(std::clamp(packetMs * rate / 1000, 0.0, 1e6)));
}

int channelsThatFit(const Format& f) {
    if (f.frames <= 0)
        return 0;
    const auto one = static_cast<std::size_t>(f.frames) * f.sampleBytes();
    return std::min(mostChannels, static_cast<int>(mostPayload / one));
}

std::optional<Error> errorIn(const Format& f) {
    const bool rate = f.rate == 44100 || f.rate == 48000 || f.rate == 88200 || f.rate == 96000;
    if (!rate)
        return Error{"has a rate of " + shortText(f.rate) + " Hz", "the stream", "Take 44.1, 48, 88.2 or 96 kHz."};
    if (f.frames < 1 || f.packetMs() < 0.1 || f.packetMs() > 4.1)
        return Error{"has packets of " + shortText(f.packetMs()) + " ms", "the stream", "Take 0.125 to 4 ms."};
    const int most = channelsThatFit(f);
    if (f.channels < 1 || f.channels > most)
        return Error{print("has %d channels of %s in packets of %s ms", f.channels, nameOf(f.encoding),
                           shortText(f.packetMs()).c_str()),
                     "the stream",
                     most > 0
                         ? print("A packet holds %d of them; take fewer, shorter packets, or several streams.", most)
                         : std::string("A packet holds not even one; take shorter packets.")};
    return {};
}

Load loadOf(const Format& f, bool sealed, bool tagged) {
    const std::size_t ip = ipHeader + udpHeader + rtpHeader + f.payloadBytes() + (sealed ? sealBytes : 0);
    const std::size_t wire =
        preamble + ethernetHeader + (tagged ? vlanTag : 0) + std::max(ip, leastPayload) + check + gap;
    Load l;
    l.packets = f.packetsPerSecond();
    l.ipBytes = l.packets * static_cast<double>(ip);
    l.wireBits = l.packets * 8 * static_cast<double>(wire);
    return l;
}

} // namespace loom::stream
