#include "surface/harm.h"

namespace loom::project {

namespace {

struct Harm {
    const char *kind, *param, *why;
};
constexpr Harm harms[] = {
    {"preamp", "phantom", "48 V that is switched is heard as a loud thud, and some microphones are damaged by it"},
    {"player", "play", "what it plays is heard wherever it is led"},
    {"generator", "run", "its test signal is heard wherever it is led"},
};

} // namespace

std::optional<std::string> harmOf(const Project& p, const Drive& d) {
    if (d.kind == Drive::Kind::scene) {
        if (const auto* scene = p.scene(d.param))
            for (const auto& [path, _] : scene->values)
                if (const auto one = driveOf(p, path); one && isValue(*one))
                    if (const auto why = harmOf(p, *one))
                        return why;
        return {};
    }
    const auto* device = p.device(d.device);
    const auto* block = device && device->program ? device->program->find(d.block) : nullptr;
    for (const auto& harm : harms)
        if (block && isSet(d) && block->kind == harm.kind && d.param == harm.param)
            return harm.why;
    return {};
}

} // namespace loom::project
