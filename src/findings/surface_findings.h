// What is wrong or risky on touch surfaces.
#pragma once
#include "findings/finding.h"

namespace loom::project {

// device: the surface's id; block: "page" or "page/control".
std::vector<Finding> checkSurfaces(const Project& project);

} // namespace loom::project
