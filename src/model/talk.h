// What a conference is told that does not follow from programs, cables and owners; and what was shown of it.
#pragma once
#include "schema/extra.h"
#include <map>
#include <string>

namespace loom::project {

// A measurement that was kept: of a space in a wall state, on a design as it was then.
struct Proof {
    std::string kind = "talk";
    std::string space{};  // its rooms, joined by "+"
    std::string state{};  // a wall state's id; "": walls closed
    std::string when{};   // "2026-11-29T10:42:07Z"
    std::string design{}; // what it was measured on, as a short sum (talk/prove.h)
    std::map<std::string, double> figures{};
    std::map<std::string, std::string> where{}; // of a figure: at whom it was the worst
    schema::Extra extra{};
    bool operator==(const Proof&) const = default;
};

} // namespace loom::project
