// Sketches as browsers read them: what has its usual value is left out.
#pragma once
#include "surface/sketch.h"
#include <nlohmann/json.hpp>

namespace loom::project {

// {"k": "r", "x": 4, "w": [0, 120], "fill": "#2A7F7A", "when": "on"}: lengths that move are [at, by].
nlohmann::json markJson(const Mark& mark);
// {"marks": [...], "parts": 2}; the track is not told: fingers are followed by whoever serves the page.
nlohmann::json sketchJson(const Sketch& sketch);
nlohmann::json shownJson(const Shown& shown);
// As it is sent: bytes that are no UTF-8 are replaced.
std::string dumped(const nlohmann::json& j);

} // namespace loom::project
