#include "project/materials.h"
#include "project/catalogue.h"
#include "project/json.h"
#include "project/safe_file.h"
#include "project/survey_json.h"
#include <cmath>
#include <cstdlib>

namespace loom::project {
namespace {

struct Table {
    std::vector<Material> materials;
    room::Bands person{};
};

Result<Table> readTable(const std::string& text, const std::string& name) {
    const auto json = parseJson(text, name);
    if (!json)
        return json.trouble();
    Reader r(*json, "");
    Table t;
    r.each("materials", [&](const nlohmann::json& j, const std::string& place) {
        Reader m(j, place);
        t.materials.push_back({m.id(), m.text("name", true), m.text("source", true), {}});
        m.find("absorption", true);
        t.materials.back().absorption = readBands(m, "absorption", {}, 0, 1);
        if (m.failed())
            r.take(m.trouble());
    });
    if (const auto* j = r.find("person", false)) {
        Reader p(*j, "/person");
        t.person = readBands(p, "absorption", {}, 0, 5);
        if (p.failed())
            r.take(p.trouble());
    }
    if (r.failed())
        return Trouble{r.trouble().message, name + r.trouble().place, "Coefficients go from 0 to 1."};
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
    const auto wall = static_cast<std::size_t>(std::atoi(surface.c_str() + 5));
    if (wall < 1 || wall > room.outline.size())
        return 0;
    const auto &a = room.outline[wall - 1], &b = room.outline[wall % room.outline.size()];
    return std::hypot(a[0] - b[0], a[1] - b[1]) * room.height;
}

} // namespace loom::project
