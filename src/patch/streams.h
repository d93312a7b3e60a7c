// Streams of a project: what is offered and heard, by which addresses, what it takes, and the edits that change it.
#pragma once
#include "catalogue/transport.h"
#include "model/edit.h"
#include "model/project.h"
#include "stream/sdp.h"

namespace loom::project {

// Whether it stands for a device of others: its streams are heard, and it is told nothing.
bool isOutside(const Device& device);

// One that a device offers. Pointers belong to the project it was made from.
struct Offer {
    const Device* device = nullptr;
    const Stream* stream = nullptr;
    std::string key;                          // "device/stream", by ids
    Transport transport = Transport::network; // that its ports lie on: packet network or audio ring
    stream::Description description{};        // with the address that was typed, or is given by itself
    std::vector<std::size_t> heardBy{};       // Patched::hearings that have it chosen
    stream::Load load() const { return stream::loadOf(description.format); } // on the packet network
    // Two packet times meet the same receivers only within one sound network.
    const std::string& network() const { return device->soundNetwork; }
};

// One receiver, and what it has chosen.
struct Hearing {
    const Device* device = nullptr;
    const Receiver* receiver = nullptr;
    std::string key;    // "device/receiver"
    std::string stream; // that it has chosen, by key; "": none
    int offer = -1;     // Patched::offers; -1: there is no such stream
    bool waits() const { return !stream.empty() && offer < 0; }
};

// What streams take of a device.
struct StreamUse {
    int flowsOut = 0, flowsIn = 0;       // streams that leave it (each receiver of a unicast one counts), and come
    int channelsOut = 0, channelsIn = 0; // of its network ports
    double megabitsOut = 0, megabitsIn = 0;
    int ringOut = 0, ringIn = 0; // channels of its ring ports
};

// All streams of a project, who hears them, and what they take: worked out at once, in time that grows with their
// number. Addresses that nobody typed are given from 239.20.0.0/16 by what the stream is (device and id), so that
// others keep theirs when one is added; two never get the same.
struct Patched {
    std::vector<Offer> offers{};                      // in the order of devices and their streams
    std::vector<Hearing> hearings{};                  // in the order of devices and their receivers
    std::map<std::string, StreamUse> uses{};          // by device; without those that neither offer nor hear
    const Offer* offer(const std::string& key) const; // null: there is none
    const Hearing* hearing(const std::string& key) const;
    const StreamUse& use(const std::string& device) const;

  private:
    friend Patched patchedOf(const Project& project);
    std::map<std::string, std::size_t> offerAt_{}, hearingAt_{};
};
Patched patchedOf(const Project& project);

// One channel of a stream on its way, from output to input, with the factor of both ends (0: muted).
struct StreamThread {
    std::string fromDevice, fromPort, toDevice, toPort;
    double gain = 1;
};
std::vector<StreamThread> streamThreads(const Project& project);

// ---- what people say: "heddle/hall-mix", "Heddle 16/hall-mix", "hall-mix" if only one is called so ----
Result<std::string> streamKey(const Project& project, const std::string& said);

// ---- edits; none has effect if it is refused ----
// A new stream of these outputs under a name. Error: no such device or port, a name twice, too many for a packet.
Result<Edit> offerStream(const Project& project, const std::string& device, const std::string& name,
                         const std::vector<std::string>& ports, int bits = 24, double packetMs = 1);
Result<Edit> withdrawStream(const Project& project, const std::string& key); // and all that hear it let it go
// A device hears a stream from `slot` on ("": the first free inputs in order). Error: no free inputs for its channels.
Result<Edit> hearStream(const Project& project, const std::string& key, const std::string& device,
                        const std::string& slot = "");
// The receivers of a device that hear it let it go; a receiver of nothing is taken away.
Result<Edit> unhearStream(const Project& project, const std::string& key, const std::string& device);

} // namespace loom::project
