// First pass: what a space needs for a conversation, as proposals with a reason each. Nothing is done before it is
// said.
#pragma once
#include "talk/conversation.h"
#include "talk/proposal.h"

namespace loom::project {

// What is there already is not proposed again. Values that differ from their defaults and from what a first pass set
// there (Block::marks "first-pass") were set by hand.
FirstPass firstPassOf(const Project& project, const SpaceOf& space, std::stop_token stop = {});
// Those that are ticked, as one step.
Edit takeFirstPass(const FirstPass& pass, const std::vector<std::string>& ids);

} // namespace loom::project
