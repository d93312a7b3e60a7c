// How sound gets from device to device: what the name of a port says of it.
#pragma once
#include <string>
#include <vector>

namespace loom::project {

enum class Transport { network, ring, pair, cable, usb, telephone };

struct TransportSpec {
    Transport transport;
    const char* prefix; // what the names of its ports begin with; "": any other
    const char* id;     // for machines: "network"
    const char* name;   // for people: "Packet network"
    bool streams;       // many hear one: by streams and receivers; else each input has one lead
};
const std::vector<TransportSpec>& transportSpecs(); // in the order of the enumeration

Transport transportOf(const std::string& port); // "net 3": the packet network; "out 1", "low 1": a cable
const TransportSpec& specOf(Transport transport);

} // namespace loom::project
