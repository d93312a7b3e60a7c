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

const Room* Project::room(const std::string& id) const {
    for (const auto& b : buildings)
        for (const auto& r : b.rooms)
            if (r.id == id)
                return &r;
    return nullptr;
}

std::optional<Place> findPlace(const Project& project, const std::string& path) {
    const auto slash = path.find('/');
    const Device* d = slash == std::string::npos ? nullptr : project.device(path.substr(0, slash));
    if (!d || !d->program)
        return {};
    const std::string dotted = path.substr(slash + 1);
    // The longest block id that leaves a known parameter wins, so that "eq.2.gain" is parameter "2.gain" of "eq".
    for (auto dot = dotted.rfind('.'); dot != std::string::npos && dot > 0; dot = dotted.rfind('.', dot - 1)) {
        const auto* block = d->program->find(dotted.substr(0, dot));
        const auto* kind = block ? engine::findKind(block->kind) : nullptr;
        const std::string param = dotted.substr(dot + 1);
        if (kind && engine::paramTable(*kind, engine::fullShape(*kind, *block)).indexOf(param) >= 0)
            return Place{d, block, param};
    }
    return {};
}

} // namespace loom::project
