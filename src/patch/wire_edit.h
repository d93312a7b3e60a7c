// Cables are laid, numbered and taken away; rings are put in order. No edit has effect if it is refused.
#pragma once
#include "patch/wiring.h"
#include "schema/field.h"

namespace loom::project {

// From a socket to a socket, "device/lan 3", or from a device to a device, "device": the first free sockets of a kind
// both have, ring sockets only where they are named. Also what carries a lead: "heddle/out 1". Error: no such socket,
// or it is taken.
struct NewWire {
    std::string from, to, number{};
    double metres = 0;
    std::optional<Wire::Grade> grade{}; // none: what the transport asks for
};
Result<Edit> layWire(const Project& project, const NewWire& wire);
Result<Edit> removeWires(const Project& project, const std::vector<std::string>& ids);
std::vector<Field> wireFields(const Project& project, const std::string& id);
Result<Edit> setWireField(const Project& project, const std::string& id, const std::string& field,
                          const std::string& value);
// The devices of a ring in this order, closed, from b to a; lengths and numbers of cables that stay between the same
// two stay. Error: one has no ring sockets, or is named twice.
Result<Edit> orderRing(const Project& project, const std::vector<std::string>& devices);

const char* nameOf(Wire::Grade grade);      // "Cat 6"
const std::vector<std::string>& gradeIds(); // "cat6", in the order of the enumeration

// What is wrong with a cable for what goes over it; "" : nothing. Lengths: ISO/IEC 11801-1 (channel of 100 m), IEEE
// 802.3 (multimode fibre of 550 m at 1 Gbit/s), AES3-4 (100 m of 110-ohm cable without equalising).
struct WireFault {
    bool grade = false; // else its length
    std::string reason, remedy;
};
std::optional<WireFault> faultOf(const WireLoad& load);

} // namespace loom::project
