// A conversation as fields: how a group chooses who is open, and what is said of one of its microphones.
#pragma once
#include "model/edit.h"
#include "schema/field.h"
#include "talk/conversation.h"

namespace loom::project {

// Of a group (by its number in the conversation; -1: none), and of a microphone (-1: none). The same values that Weave
// has. Ids: "group.limit", "lane.priority", "role".
std::vector<Field> talkFields(const Project& project, const Conversation& conversation, int group, int microphone);
Result<Edit> setTalkField(const Project& project, const Conversation& conversation, int group, int microphone,
                          const std::string& field, const std::string& value);

} // namespace loom::project
