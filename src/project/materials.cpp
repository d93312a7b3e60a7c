#include "project/materials.h"
#include "dsp/number.h"
#include "project/catalogue.h"
#include "project/json.h"
#include "project/safe_file.h"
#include <cmath>
#include <cstdlib>

namespace loom::project {
namespace {

struct Table {
    std::vector<Material> materials{};
    room::Bands person{}; // absorption of one, m2
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
    person.read = [](Table& table, const Json* j, const At& at, Reading& r) {
        const Limits limits{.min = 0, .max = 5, .must = "must be eight numbers, 63 Hz to 8 kHz, from 0 to 5"};
        const At here(at, "person");
        if (j)
            Codec<room::Bands>::read(table.person, j->value("absorption", Json()), limits, At(here, "absorption"), r);
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
    const auto json = parseJson(text, name);
    if (!json)
        return json.trouble();
    auto t = schema::fromJson<Table>(*json);
    if (!t)
        return Trouble{t.trouble().message, name + t.trouble().place, "Coefficients go from 0 to 1."};
    return t;
}

const Table& table() {
    static const Table all = [] {
        const std::string file = dataFolder() + "/materials/materials.json";
        const auto text = readWhole(file, 1 << 20);
        auto read = text ? readTable(*text, file) : Result<Table>(text.trouble());
        return read ? *read : Table{{{"plaster-brick", "Plaster on brick", "", room::filled(0.03)}}, {}};
    }();
    return all;
}

} // namespace

Result<std::vector<Material>> readMaterials(const std::string& text, const std::string& name) {
    auto t = readTable(text, name);
    return t ? Result<std::vector<Material>>(t->materials) : Result<std::vector<Material>>(t.trouble());
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

const room::Bands& personAbsorption() {
    return table().person;
}

std::vector<std::string> surfacesOf(const Room& room) {
    std::vector<std::string> all{"floor", "ceiling"};
    for (std::size_t i = 1; i <= room.outline.size(); ++i)
        all.push_back("wall " + std::to_string(i));
    return all;
}

const Material& finishOf(const Room& room, const std::string& surface) {
    for (const std::string& key : {surface, std::string(surface.rfind("wall ", 0) == 0 ? "walls" : surface)})
        if (const auto own = room.finishes.find(key); own != room.finishes.end())
            if (const auto* m = findMaterial(own->second))
                return *m;
    const auto* usual = findMaterial(surface == "floor" ? "linoleum" : "plaster-brick");
    return usual ? *usual : materials().front();
}

double areaOf(const Room& room, const std::string& surface) {
    if (surface == "floor" || surface == "ceiling")
        return room::areaOf(room.outline);
    const auto wall = static_cast<std::size_t>(wholeInteger(surface.substr(5), 0, 100000).value_or(0));
    if (wall < 1 || wall > room.outline.size())
        return 0;
    const auto &a = room.outline[wall - 1], &b = room.outline[wall % room.outline.size()];
    return std::hypot(a[0] - b[0], a[1] - b[1]) * room.height;
}

} // namespace loom::project
