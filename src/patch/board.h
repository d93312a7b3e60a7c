// Who hears whom, as it is looked at: what is offered, every input that can take it, and threads between them. One
// picture for all transports.
#pragma once
#include "patch/delays.h"

namespace loom::project {

// A stream, or an output that goes by a lead of its own.
struct BoardRow {
    std::string key; // "device/stream", or "device/out 1"
    std::string name;
    Transport transport = Transport::network;
    bool stream = false;
    std::vector<std::string> ports{}; // a channel each
    int heard = 0;                    // threads that leave it
    bool waits = false;               // one of them is not there yet
};
struct BoardSlot {
    std::string port;
    Transport transport = Transport::network;
    int thread = -1; // that brings its sound; -1: free
    int channel = 0; // of that, from 0
    bool twice = false;
};
struct BoardDevice {
    int device = 0; // of the project, by number
    std::vector<BoardRow> rows{};
    std::vector<BoardSlot> inputs{};
    int used = 0;      // of the slots
    std::string why{}; // it is not on the transport that is looked at; it has neither rows nor slots then
};
// From a row to inputs of one device.
struct BoardThread {
    int from = -1, row = -1; // of Board::offers and its rows; -1: what it waits for is not offered
    int to = -1;             // of Board::takers
    std::string receiver{};  // key; "" of a lead
    std::string lead{};      // the input of a lead: "device/in 1"
    std::string name{};      // of what is heard
    Transport transport = Transport::network;
    bool runs = false;
    std::string why{};  // it does not
    double delayMs = 0; // of streams that run
    bool late = false;
};
struct Board {
    std::vector<BoardDevice> offers{}, takers{}; // in the order of the project; those with `why` last
    std::vector<BoardThread> threads{};
};

struct BoardFilter {
    std::optional<Transport> transport{}; // none: all
    std::string ring{};                   // name of one: "Ring A"; "": all
    std::set<std::string> rooms{};        // devices of these, or that they own a port of; none: all. "": the rack
};
Board boardOf(const Project& project, const Patched& patched, const Wired& wired, const BoardFilter& filter = {});

// What is taken of a transport, over all devices.
struct TransportUse {
    Transport transport{};
    std::string name;       // "Packet network", "Ring A"
    int used = 0, most = 0; // inputs; of a ring: slots
};
std::vector<TransportUse> transportUses(const Project& project, const Patched& patched, const Wired& wired);

// Of the packet network: the device with most streams, with what it can do at most, and the fullest cable.
struct NetworkState {
    int flows = 0, most = 0; // most 0: no limit is known
    const WireLoad* busiest = nullptr;
};
NetworkState networkState(const Project& project, const Patched& patched, const Wired& wired);

} // namespace loom::project
