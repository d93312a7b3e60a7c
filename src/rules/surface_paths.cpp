#include "rules/surface_paths.h"
#include "rules/condition.h"
#include "rules/control_drive.h"

namespace loom::project {

void eachPath(const Surface& s, const std::function<void(const std::string& path)>& what) {
    const auto condition = [&](const std::string& text) {
        if (const auto c = readCondition(text); c && *c)
            what((*c)->path);
    };
    for (const auto& page : s.pages)
        for (const auto& ply : page.plies) {
            condition(ply.shown);
            for (const auto& c : ply.controls) {
                if (!c.param.empty())
                    what(c.param);
                condition(c.shown);
                condition(c.enabled);
            }
        }
}

std::set<std::string> showersOf(const Project& p, const Surface& s) {
    std::set<std::string> all;
    const auto add = [&](const std::string& device) {
        if (const auto* d = p.device(device); d && d->program)
            all.insert(device);
    };
    std::set<std::string> seen; // a page may name one often
    eachPath(s, [&](const std::string& path) {
        if (!seen.insert(path).second)
            return;
        if (const auto id = behind(path, scenePrefix)) {
            if (const auto* scene = p.scene(*id))
                for (const auto& [one, _] : scene->values)
                    add(one.substr(0, one.find('/')));
        } else if (path.find(':') < path.find('/')) {
            if (const auto drive = controlDrive(p, path))
                add(drive->device);
        } else {
            add(path.substr(0, path.find('/')));
        }
    });
    if (!s.device.empty())
        all.insert(s.device);
    return all;
}

} // namespace loom::project
