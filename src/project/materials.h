// What surfaces are made of: absorption per octave, from materials/materials.json.
#pragma once
#include "engine/result.h"
#include "project/survey.h"

namespace loom::project {

struct Material {
    std::string id, name, source;
    room::Bands absorption{}; // 0..1
    schema::Extra extra{};
    bool operator==(const Material&) const = default;
};

// Trouble: names the file and the field, such as an absorption above 1.
Result<std::vector<Material>> readMaterials(const std::string& text, const std::string& name);
const std::vector<Material>& materials(); // those of this build
const Material* findMaterial(const std::string& id);
// Of one seated person, m2 per octave.
const room::Bands& personAbsorption();

// Surfaces of a room: floor, ceiling, "wall 1" .. in the order of the outline's corners.
std::vector<std::string> surfacesOf(const Room& room);
// What a surface is made of: its own finish, for a wall else that of "walls", else plaster (walls, ceiling), linoleum.
const Material& finishOf(const Room& room, const std::string& surface);
double areaOf(const Room& room, const std::string& surface); // m2, without openings

} // namespace loom::project
