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
    double fade = 0;                        // s that it takes where nothing else is said; 0: at once
    enum class Switches { start, middle, end };
    Switches switches = Switches::start; // when in a fade what is on or off, or a choice, changes over
    bool atStart = false;                // recalled when power comes
    schema::Extra extra{};
    bool operator==(const Scene&) const = default;
};

inline constexpr double longestFade = 3600; // s
inline constexpr std::size_t mostScenes = 2000, mostInScene = 5000;
// A path that means a scene: "scene:meeting".
inline constexpr const char* scenePrefix = "scene:";

} // namespace loom::project
