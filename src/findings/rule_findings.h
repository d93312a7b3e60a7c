// What is wrong or risky about rules, scenes and scripts.
#pragma once
#include "findings/finding.h"
#include <stop_token>

namespace loom::project {

// device: the id of the rule, scene, script, test or outside device.
std::vector<Finding> checkRules(const Project& project, std::stop_token stop = {});

} // namespace loom::project
