// Scenes: kept from now, recalled into the design, taken out.
#pragma once
#include "model/edit.h"

namespace loom::project {

// By id or name. Error: there is no such.
Result<const Scene*> sceneSaid(const Project& project, const std::string& said);
// What is set now of these parameters ("heddle/hall.level.gain") as a scene; one of that name in the room is kept anew,
// with its id. Error: no name, no parameter, or one that is not there.
Result<Edit> keepScene(const Project& project, const std::string& name, const std::string& room,
                       const std::map<std::string, double>& values);
// Their values in the design; those that lead nowhere are left out.
std::map<std::string, double> sceneValuesOf(const Project& project, const std::vector<std::string>& paths);
Result<Edit> removeScene(const Project& project, const std::string& scene);
// Sets its values in the design. Those that lead nowhere are left out; error: all do.
Result<Edit> recallScene(const Project& project, const std::string& scene);

} // namespace loom::project
