// How devices are wired: cables between their sockets, with numbers and lengths. Plain values.
#pragma once
#include "schema/extra.h"
#include <string>

namespace loom::project {

// A cable from a socket to a socket: of the packet network ("sley/lan 3"), of an audio ring ("heddle/ring a"), or what
// carries a lead ("heddle/out 1").
struct Wire {
    enum class Grade { cat5e, cat6, cat6a, fibre, pair110, balanced }; // fibre: multimode; pair110: for AES3
    std::string id, number{};                                          // number: as it stands on its ends, "N-014"
    std::string from, to;                                              // "device/socket"
    double metres = 0;                                                 // 0: not known
    Grade grade = Grade::cat6;
    schema::Extra extra{};
    bool operator==(const Wire&) const = default;
};

} // namespace loom::project
