// How conversations are on site: whether all places of a mute agree, and how lines and computers are.
#pragma once
#include "site/found.h"

namespace loom::site {

// A place of a mute and how it is there: "Council tap", muted.
struct MuteState {
    std::string device, key, name, space;
    bool muted = false;
};
// All that devices tell, by space in the order of the project. vitals: by device.
std::vector<MuteState> muteStates(const project::Project& project,
                                  const std::map<std::string, project::Vitals>& vitals);
// Spaces in which some place is muted and another is not; lines that are not registered; computers that went away.
std::vector<SiteFinding> callFindings(const project::Project& project,
                                      const std::map<std::string, project::Vitals>& vitals);

// What a line tells when nobody can call it: "not registered: ..." (rig and docs/protocol.md).
inline constexpr const char *lineOff = "not registered", *computerOff = "gone in a call";

} // namespace loom::site
