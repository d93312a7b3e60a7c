#include "model/surface.h"

namespace loom::project {

const Control* SurfacePage::control(const std::string& id) const {
    for (const auto& ply : plies)
        for (const auto& c : ply.controls)
            if (c.id == id)
                return &c;
    return nullptr;
}

const SurfacePage* Surface::page(const std::string& id) const {
    for (const auto& p : pages)
        if (p.id == id)
            return &p;
    return nullptr;
}

} // namespace loom::project
