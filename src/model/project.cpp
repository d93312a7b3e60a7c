#include "model/project.h"
#include "engine/block_kind.h"

namespace loom::project {

const Device* Project::device(const std::string& id) const {
    for (const auto& d : devices)
        if (d.id == id)
            return &d;
    return nullptr;
}

Device* Project::device(const std::string& id) {
    for (std::size_t i = 0; i < devices.size(); ++i)
        if (devices[i].id == id)
            return &devices.change(i);
    return nullptr;
}

Room* Project::room(const std::string& id) {
    for (std::size_t b = 0; b < buildings.size(); ++b)
        for (std::size_t r = 0; r < buildings[b].rooms.size(); ++r)
            if (buildings[b].rooms[r].id == id)
                return &buildings.change(b).rooms.change(r);
    return nullptr;
}

const Voicing* Project::voicing(const std::string& id) const {
    for (const auto& v : voicings)
        if (v.id == id)
            return &v;
    return nullptr;
}

Voicing* Project::voicing(const std::string& id) {
    for (std::size_t i = 0; i < voicings.size(); ++i)
        if (voicings[i].id == id)
            return &voicings.change(i);
    return nullptr;
}

const Surface* Project::surface(const std::string& id) const {
    for (const auto& s : surfaces)
        if (s.id == id)
            return &s;
    return nullptr;
}

Surface* Project::surface(const std::string& id) {
    for (std::size_t i = 0; i < surfaces.size(); ++i)
        if (surfaces[i].id == id)
            return &surfaces.change(i);
    return nullptr;
}

const Scene* Project::scene(const std::string& id) const {
    for (const auto& s : scenes)
        if (s.id == id)
            return &s;
    return nullptr;
}

Scene* Project::scene(const std::string& id) {
    for (std::size_t i = 0; i < scenes.size(); ++i)
        if (scenes[i].id == id)
            return &scenes.change(i);
    return nullptr;
}

const Building* Project::buildingOf(const std::string& room) const {
    for (const auto& b : buildings)
        for (const auto& r : b.rooms)
            if (r.id == room)
                return &b;
    return nullptr;
}

const Room* Project::room(const std::string& id) const {
    for (const auto& b : buildings)
        for (const auto& r : b.rooms)
            if (r.id == id)
                return &r;
    return nullptr;
}

std::optional<ParamTarget> findTarget(const Project& project, const std::string& path) {
    const auto slash = path.find('/');
    const Device* d = slash == std::string::npos ? nullptr : project.device(path.substr(0, slash));
    if (!d || !d->program)
        return {};
    const auto found = engine::findParameter(*d->program, path.substr(slash + 1));
    return found.block ? std::optional<ParamTarget>({d, found.block, found.param}) : std::nullopt;
}

} // namespace loom::project
