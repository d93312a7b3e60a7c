#include "model/room_faces.h"
#include "acoustics/polygon.h"
#include "catalogue/materials.h"
#include "dsp/number.h"
#include <cmath>

namespace loom::project {

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
        return acoustics::areaOf(room.outline);
    const auto wall = static_cast<std::size_t>(wholeInteger(surface.substr(5), 0, 100000).value_or(0));
    if (wall < 1 || wall > room.outline.size())
        return 0;
    const auto &a = room.outline[wall - 1], &b = room.outline[wall % room.outline.size()];
    return std::hypot(a[0] - b[0], a[1] - b[1]) * room.height;
}

} // namespace loom::project
