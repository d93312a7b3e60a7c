#include "catalogue/materials.h"
#include "catalogue/catalogue.h"
#include "disk/safe_file.h"
#include "dsp/number.h"
#include "schema/json_text.h"
#include "schema/schema.h"
#include <cstdlib>

namespace loom::project {
namespace {

struct Table {
    std::vector<Material> materials{};
    acoustics::Bands person{}; // absorption of one, m2
    schema::Extra extra{};
};

} // namespace
} // namespace loom::project

namespace loom::schema {

using project::Material;
using project::Table;
LOOM_DESCRIBE(Material)
LOOM_DESCRIBE(Table)

namespace {

Type<Material> materialType() {
    Type<Material> t("material", "A finish of walls, floors and ceilings");
    t.add("id", &Material::id).id();
    t.add("name", &Material::name).needed();
    t.add("source", &Material::source).needed();
    t.add("absorption", &Material::absorption)
        .range(0, 1)
        .must("must be eight numbers, 63 Hz to 8 kHz, from 0 to 1")
        .needed();
    return t;
}

Type<Table> tableType() {
    Type<Table> t("materials", "The materials");
    t.add("materials", &Table::materials);
    auto& person = t.byHand("person", "absorption of one, m2");
    person.reader = [](Table& table, const Json* j, const At& at, Reading& r) {
        const Limits limits{.min = 0, .max = 5, .must = "must be eight numbers, 63 Hz to 8 kHz, from 0 to 5"};
        const At here(at, "person");
        if (j)
            Codec<acoustics::Bands>::read(table.person, j->value("absorption", Json()), limits, At(here, "absorption"),
                                          r);
    };
    t.extra(&Table::extra);
    return t;
}

} // namespace

LOOM_TYPE(Material, materialType)
LOOM_TYPE(Table, tableType)

} // namespace loom::schema

namespace loom::project {
namespace {

Result<Table> readTable(const std::string& text, const std::string& name) {
    const auto json = schema::parseJson(text, name);
    if (!json)
        return json.error();
    auto t = schema::fromJson<Table>(*json);
    if (!t)
        return Error{t.error().message, name + t.error().place, "Coefficients go from 0 to 1."};
    return t;
}

const Table& table() {
    static const Table all = [] {
        const std::string file = dataFolder() + "/materials/materials.json";
        const auto text = readWhole(file, 1 << 20);
        auto read = text ? readTable(*text, file) : Result<Table>(text.error());
        return read ? *read : Table{{{"plaster-brick", "Plaster on brick", "", acoustics::filled(0.03)}}, {}};
    }();
    return all;
}

} // namespace

Result<std::vector<Material>> readMaterials(const std::string& text, const std::string& name) {
    auto t = readTable(text, name);
    return t ? Result<std::vector<Material>>(t->materials) : Result<std::vector<Material>>(t.error());
}

const std::vector<Material>& materials() {
    return table().materials;
}

const Material* findMaterial(const std::string& id) {
    for (const auto& m : materials())
        if (m.id == id)
            return &m;
    return nullptr;
}

const acoustics::Bands& personAbsorption() {
    return table().person;
}

} // namespace loom::project
