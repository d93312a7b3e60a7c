#include "patch/delays.h"
#include <algorithm>
#include <cmath>

namespace loom::project {
namespace {

constexpr double largestFrameBits = 1538 * 8, switchMs = 0.005, msPerMetre = 5e-6;

// The longest that a packet may be on its way, ms.
double wayMs(const Project& p, const Offer& o, const Wired& wired, const Delivery& d) {
    const auto load = o.load();
    const double bits = load.packets > 0 ? load.wireBits / load.packets : 0;
    double ms = 0;
    for (std::size_t n = 0; n < d.wires.size(); ++n) {
        const auto& l = wired.wires[d.wires[n]];
        const double bitsPerMs = std::max(l.megabits, 1.0) * 1000;
        ms += bits / bitsPerMs + l.wire->metres * msPerMetre;
        if (const auto* m = p.devices[static_cast<std::size_t>(d.devices[n])].spec(); n > 0 && m && m->bridges)
            ms += switchMs + largestFrameBits / bitsPerMs;
    }
    return ms;
}

} // namespace

double leastDelayMs(const Offer& o, const Hearing& h) {
    const auto* m = h.device->spec();
    const double buffer = m && m->soundNetwork ? m->soundNetwork->bufferMs : 1;
    return o.description.format.packetMs() + buffer;
}

StreamDelay delayOf(const Project& p, const Patched& patched, const Wired& wired, const Delivery& d) {
    const auto& o = patched.offers[d.offer];
    const auto& h = patched.hearings[d.hearing];
    StreamDelay all;
    if (o.transport == Transport::ring) {
        for (const auto& ring : wired.rings)
            for (const int device : ring.devices)
                if (&p.devices[static_cast<std::size_t>(device)] == o.device)
                    all.network = 1000.0 * ring.hopSamples / o.device->rate;
        all.buffer = std::max(0.0, h.receiver->delayMs - all.network);
        return all;
    }
    all.packet = o.description.format.packetMs();
    all.network = wayMs(p, o, wired, d);
    // Whole samples: sound comes out between two of them nowhere.
    const double wanted = h.receiver->delayMs > 0 ? h.receiver->delayMs : leastDelayMs(o, h) + all.network;
    const double perMs = h.device->rate / 1000;
    all.buffer = std::ceil(wanted * perMs - 1e-6) / perMs - all.packet - all.network;
    return all;
}

} // namespace loom::project
