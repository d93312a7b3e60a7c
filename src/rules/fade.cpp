#include "rules/fade.h"
#include <cmath>

namespace loom::project {

double fadeValue(const engine::ParamSpec& spec, double from, double to, double x, Scene::Switches switches) {
    if (x >= 1)
        return to;
    if (spec.unit == engine::Unit::onOff || spec.unit == engine::Unit::choice) {
        const double over = switches == Scene::Switches::start ? 0 : switches == Scene::Switches::middle ? 0.5 : 1;
        return x >= over ? to : from;
    }
    if (x <= 0)
        return from;
    if (spec.taper == engine::Taper::logarithmic && from > 0 && to > 0)
        return from * std::pow(to / from, x);
    return from + (to - from) * x;
}

} // namespace loom::project
