// What the product sees by itself: things wrong or risky in a project.
#pragma once
#include "findings/finding.h"
#include <stop_token>

namespace loom::project {

// All of them; `stop` ends the predictions of rooms early.
std::vector<Finding> check(const Project& project, std::stop_token stop = {});
std::vector<Finding> check(const Device& device);

// All findings, with those of checkAcoustics as they were worked out before: programs do not change them.
std::vector<Finding> checkWith(const Project& project, const std::vector<Finding>& acoustics);

} // namespace loom::project
