// What surfaces are made of: absorption per octave, from materials/materials.json.
#pragma once
#include "acoustics/bands.h"
#include "engine/result.h"
#include "schema/extra.h"

namespace loom::project {

struct Material {
    std::string id, name, source;
    acoustics::Bands absorption{}; // 0..1
    schema::Extra extra{};
    bool operator==(const Material&) const = default;
};

// Error: names the file and the field, such as an absorption above 1.
Result<std::vector<Material>> readMaterials(const std::string& text, const std::string& name);
const std::vector<Material>& materials(); // those of this build
const Material* findMaterial(const std::string& id);
// Of one seated person, m2 per octave.
const acoustics::Bands& personAbsorption();

} // namespace loom::project
