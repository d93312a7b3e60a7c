#include "project/model.h"
#include "engine/block_kind.h"

namespace loom::project {

const Device* Project::device(const std::string& id) const {
    for (const auto& d : devices)
        if (d.id == id)
            return &d;
    return nullptr;
}

Device* Project::device(const std::string& id) {
    for (auto& d : devices)
        if (d.id == id)
            return &d;
    return nullptr;
}

Room* Project::room(const std::string& id) {
    return const_cast<Room*>(std::as_const(*this).room(id));
}

const Voicing* Project::voicing(const std::string& id) const {
    for (const auto& v : voicings)
        if (v.id == id)
            return &v;
    return nullptr;
}

Voicing* Project::voicing(const std::string& id) {
    return const_cast<Voicing*>(std::as_const(*this).voicing(id));
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

std::optional<ParamPlace> findPlace(const Project& project, const std::string& path) {
    const auto slash = path.find('/');
    const Device* d = slash == std::string::npos ? nullptr : project.device(path.substr(0, slash));
    if (!d || !d->program)
        return {};
    const auto found = engine::findParameter(*d->program, path.substr(slash + 1));
    return found.block ? std::optional<ParamPlace>({d, found.block, found.param}) : std::nullopt;
}

} // namespace loom::project
