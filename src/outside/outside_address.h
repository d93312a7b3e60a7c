// Where an outside device is reached.
#pragma once
#include "engine/result.h"
#include "model/outside.h"
#include <array>

namespace loom::project {

struct OutsideAddress {
    std::string host{}; // IPv4, or a name
    int port = 0;
    std::string path{}; // of a serial line: "/dev/ttyS0"
    std::array<unsigned char, 6> mac{};
};
// As its kind is reached. Error: what is missing.
Result<OutsideAddress> readOutsideAddress(const OutsideKind& kind, const std::string& text);
// What wakes a computer: six times FF and sixteen times its address (AMD, Magic Packet Technology, 1995).
std::string wakePacket(const std::array<unsigned char, 6>& mac);

} // namespace loom::project
