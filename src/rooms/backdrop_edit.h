// Drawings below the plan as edits: put there, their layers, their units, and rooms made of their outlines.
#pragma once
#include "model/edit.h"
#include "rooms/dxf_plan.h"

namespace loom::project {

// A drawing becomes the only one below a building: that of the id, else the first (made if there is none). `hidden`:
// layers of it that are not drawn.
Edit addBackdrop(const Project& project, const std::string& building, const std::string& name, const Asset& content,
                 double metresPerUnit, std::vector<std::string> hidden = {});
// The first drawing of the building with other layers, or other metres a unit; null: there is none.
Edit setBackdrop(const Project& project, const std::string& building, std::vector<std::string> hidden,
                 double metresPerUnit);
Edit removeBackdrops(const Project& project);
// Rooms of outlines as outlinesOf gives them, below the drawing that is first in the building; those without a name are
// numbered. Error: which outline makes no room, and why. `made`: their ids.
Result<Edit> roomsOfOutlines(const Project& project, const std::string& building,
                             const std::vector<DxfOutline>& outlines, double height,
                             std::vector<std::string>* made = nullptr);

} // namespace loom::project
