// What a touch surface speaks of, and with that on which devices it is.
#pragma once
#include "model/project.h"
#include <functional>
#include <set>

namespace loom::project {

// Every path that its controls and conditions name, in their order; one may come several times.
void eachPath(const Surface& surface, const std::function<void(const std::string& path)>& what);
// The device that it is for, and those with a program of which it shows or sets something, also by its scenes: they
// show it as well.
std::set<std::string> showersOf(const Project& project, const Surface& surface);

} // namespace loom::project
