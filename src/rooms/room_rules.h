// What happens in a room, as it happens in its copy: its rules with their scripts, its outside devices, and tests.
#pragma once
#include "rooms/copy_names.h"
#include "rooms/room_edit.h"

namespace loom::project {

struct RoomRules { // new ones
    List<Rule> rules{};
    List<Script> scripts{};
    List<RehearsalTest> tests{};
    List<OutsideDevice> outside{};
    List<OutsideKind> outsideKinds{}; // that the other project has not
};
// Of `room`, for its copy `as` in `to`; `told`: what of each is the copies'. A rule that would still set what stays
// there is switched off; a test comes along where all that it looks at came along.
RoomRules copyRules(const Project& from, const Project& to, const std::string& room, const std::string& as,
                    CopyNames& names, std::vector<Renewal>& told);

} // namespace loom::project
