// When a control is seen or works, and when a ply is open, in words:
//
//   heddle/hall.mute.muted              it is on
//   not heddle/hall.mute.muted          it is not
//   heddle/hall.level.gain > -20        also < and =
//   outside:display/power               whatever else a control may show (rules/control_drive.h)
#pragma once
#include "engine/result.h"
#include <functional>
#include <optional>
#include <string>

namespace loom::project {

struct Condition {
    bool negated = false;
    std::string path{};
    char sign = 0; // '>', '<', '='; 0: it is on
    double value = 0;
};
// "" is no condition. Error: what it lacks.
Result<std::optional<Condition>> readCondition(const std::string& text);
// now: the value of a path, none where it is not known: then nothing is met.
bool isMet(const Condition& condition, const std::function<std::optional<double>(const std::string&)>& now);

} // namespace loom::project
