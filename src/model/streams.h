// Sound over the packet network and the audio ring as it is planned: what a device offers, and what it hears. Plain
// values.
#pragma once
#include "schema/extra.h"
#include <string>
#include <vector>

namespace loom::project {

// Channels that a device offers to whoever wants to hear them.
struct Stream {
    enum class Samples { l16, l24 };
    std::string id, name;             // id: within its device; name: what others choose it by
    std::vector<std::string> ports{}; // outputs of the device, a channel each: "net 1", or "ring 1"
    double levelDb = 0;
    bool muted = false, inverted = false;
    Samples samples = Samples::l24;
    double packetMs = 1;   // 0.125 to 4
    bool unicast = false;  // to one receiver, at its own address
    std::string address{}; // of its group; "": one of the range, given by itself
    int port = 5004;       // UDP
    int payload = 0;       // RTP's payload type; 0: the usual one
    schema::Extra extra{};
    bool operator==(const Stream&) const = default;
};

// Inputs of a device that hear one stream, or one of several.
struct Receiver {
    std::string id;                     // within its device
    std::vector<std::string> inputs{};  // inputs, in the order of the stream's channels; "": that channel is not taken
    std::vector<std::string> streams{}; // "device/stream", by ids; one is heard at a time
    int chosen = 0;                     // which of them, from 0
    double delayMs = 0; // from the sample's leaving to its coming out here; 0: as short as both ends allow
    double levelDb = 0;
    bool muted = false, inverted = false;
    schema::Extra extra{};
    bool operator==(const Receiver&) const = default;
};

} // namespace loom::project
