// What is wrong or risky in conversations: echo, references, mutes, groups, lines, and what was measured.
#pragma once
#include "findings/finding.h"

namespace loom::project {

std::vector<Finding> checkTalk(const Project& project);

} // namespace loom::project
