// Values on their way from one to another.
#pragma once
#include "engine/parameter.h"
#include "model/scene.h"

namespace loom::project {

// Of a parameter at x (0: begins, 1: there) on the way: levels in decibels, what is heard by its ratio (frequencies)
// evenly on a logarithmic scale, the rest straight; what is on or off, or a choice, changes over as `switches` says.
double fadeValue(const engine::ParamSpec& spec, double from, double to, double x,
                 Scene::Switches switches = Scene::Switches::start);

} // namespace loom::project
