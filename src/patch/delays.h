// How long a stream takes from leaving one device to coming out of another.
#pragma once
#include "patch/wiring.h"

namespace loom::project {

// Of one stream to one receiver, in ms. On the packet network a sample waits until its packet is full, is on its way,
// and is held back by the receiver until the moment that is the same for every packet (AES67-2018 7.5, link offset).
struct StreamDelay {
    double packet = 0;  // until it is full
    double network = 0; // the longest that it may be on its way; 0 where the wiring is not planned
    double buffer = 0;  // held back after that; below 0: packets come too late
    double total() const { return packet + network + buffer; }
    bool late() const { return buffer < 0; }
};
// The way: each cable takes a packet's bits and 5 ns a metre (light in copper and glass, 0.66 of c), each switch 5 us
// and one packet of the largest size that was begun before (IEEE 802.3: 1538 bytes with preamble and gap). On a ring
// every channel takes as long as once round, so that a break changes nothing.
StreamDelay delayOf(const Project& project, const Patched& patched, const Wired& wired, const Delivery& delivery);

// What a receiver needs at least for this stream, ms: its packet and what its model holds back.
double leastDelayMs(const Offer& offer, const Hearing& hearing);

} // namespace loom::project
