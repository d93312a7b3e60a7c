// Which way sound takes between devices: sockets and cables, switches and rings, what each carries, and what is left
// when something is cut.
#pragma once
#include "patch/streams.h"
#include <set>

namespace loom::project {

// Where a cable for the packet network or the ring is put in.
struct Socket {
    std::string name; // "lan 1", "ring a"
    Transport transport = Transport::network;
    double megabits = 0; // each way, of the packet network
    bool feeds = false;  // gives power
};
std::vector<Socket> socketsOf(const Device& device);

// The device and socket (or port) of "device/socket"; empty texts where it is none.
std::pair<std::string, std::string> endOf(const std::string& text);

// What does not work any more: cables and devices (a switch) by id.
struct Cut {
    std::set<std::string> wires{}, devices{};
    bool none() const { return wires.empty() && devices.empty(); }
};

struct WireLoad {
    const Wire* wire = nullptr;
    Transport transport = Transport::cable; // network: there and back count; ring: slots; else a lead
    int from = -1, to = -1;                 // devices of the project by number; -1: there is none
    double megabits = 0;                    // that it carries each way: the least of both sockets
    double there = 0, back = 0;             // Mbit/s of streams, from `from` to `to` and back
    int flowsThere = 0, flowsBack = 0;
    bool works = true; // both ends are there, and it is not cut
    bool used = false; // part of the tree that packets take; else in reserve
    double busy() const { return megabits > 0 ? std::max(there, back) / megabits : 0; } // 0 to 1 and above
};

// Devices joined from ring socket to ring socket.
struct Ring {
    std::string name;           // "Ring A", by the order of its first device
    std::vector<int> devices{}; // in order, beginning with the one that stands first in the project
    std::vector<std::size_t> wires{};
    bool closed = false;    // the last is joined with the first
    bool crossed = false;   // a socket a is joined to an a, or b to b
    int most = 0, used = 0; // channels
    int hopSamples = 0;     // all devices together: what a channel takes whichever way it goes round
};

// A stream on its way to one receiver.
struct Delivery {
    std::size_t offer = 0, hearing = 0; // of the Patched it was made from
    bool runs = false;
    std::string why{};                // it does not: for people
    std::vector<std::size_t> wires{}; // that it takes, in order; none: the wiring is not planned
    std::vector<int> devices{};       // that it passes, both ends among them
};

struct Wired {
    std::vector<WireLoad> wires{};      // in the order of Project::wires
    std::vector<Ring> rings{};          // without cuts, as planned
    std::vector<Delivery> deliveries{}; // of each receiver that has a stream
    std::vector<int> segments{};        // by device: those with the same number reach each other over the network
    // Cables of these are planned; else they are taken to reach all, as devices of others are that have none.
    bool network = false, ring = false;
    const Delivery* delivery(std::size_t hearing) const; // null: it has no stream

  private:
    friend Wired wiredOf(const Project&, const Patched&, const Cut&, const std::vector<std::size_t>*);
    std::map<std::size_t, std::size_t> of_{};
};
// Packets follow a spanning tree: its root is the switch that stands first in the project, every other switch joins by
// the cheapest way (IEEE 802.1D-2004 17.14: 20 000 000 000 / kbit/s), and a cable that is not needed waits in reserve.
// A stream to many goes along each cable once (switches that listen to IGMP, RFC 4541). A device that does not pass
// packets on uses the first of its sockets that works. On a ring, sound goes both ways round: it arrives as long as one
// of them is whole.
// `only`: nothing but what these hear, without loads; null: all.
Wired wiredOf(const Project& project, const Patched& patched, const Cut& cut = {},
              const std::vector<std::size_t>* only = nullptr);

// What a cut does to each receiver that heard its stream before.
struct CutEffect {
    std::size_t hearing = 0;
    bool silent = false; // else it comes another way
};
std::vector<CutEffect> effectsOf(const Wired& whole, const Wired& cut);

} // namespace loom::project
