// Scenes: named sets of values that are set at once, "Meeting", "Film".
#pragma once
#include "schema/extra.h"
#include <map>
#include <string>

namespace loom::project {

struct Scene {
    std::string id, name;
    std::string room{};                     // a space ("council", "tern+plover"); "": of the whole project
    std::map<std::string, double> values{}; // parameter ("heddle/hall.level.gain") -> value; the others are left alone
    schema::Extra extra{};
    bool operator==(const Scene&) const = default;
};

inline constexpr std::size_t mostScenes = 2000, mostInScene = 5000;
// A path that means a scene: "scene:meeting".
inline constexpr const char* scenePrefix = "scene:";

} // namespace loom::project
