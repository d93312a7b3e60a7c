// Microphone groups: automatic mixers in programs.
#pragma once
#include "model/edit.h"
#include "talk/conversation.h"

namespace loom::project {

// Microphones by the sources of their processor's program.
struct GroupSetting {
    std::string name{};
    int limit = 2;                     // open at once
    double decay = 0.8;                // of the room, s
    std::vector<std::string> first{};  // go first
    std::vector<std::string> behind{}; // hear the others from afar
    std::string home{};                // stays open while nobody speaks; "": the latest
    double depth = -24;                // of those that are closed, dB
};
// What suits those of a conversation, by their roles.
GroupSetting groupSetting(const Project& project, const SpaceOf& space,
                          const std::vector<const Conversation::Microphone*>& microphones);
// The lanes of these sources come together in a new group that hears what is played in the space. They go on where
// they went, through the group. Error: a loop.
Result<engine::Program> groupInto(const Project& project, const Device& processor, const SpaceOf& space,
                                  const std::vector<std::string>& sources, const GroupSetting& setting);
// A group of microphones, by their devices. Error: fewer than two, one that no program takes or that is in a group, or
// two processors: says why not, and how.
Result<Edit> groupMicrophones(const Project& project, const SpaceOf& space, const std::vector<std::string>& devices);

} // namespace loom::project
