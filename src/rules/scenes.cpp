#include "rules/scenes.h"
#include "engine/block_kind.h"
#include "rooms/room_edit.h"
#include <algorithm>
#include <set>

namespace loom::project {
namespace {

Error noScene(const std::string& id) {
    return {"there is no such scene", id, "loomctl scenes lists them."};
}

std::optional<double> designed(const Project& p, const std::string& path) {
    const auto target = findTarget(p, path);
    if (!target)
        return {};
    const engine::BlockView view(*target->block);
    const int i = view.table->indexOf(target->param);
    return i < 0 ? std::nullopt : std::optional(view.values[static_cast<std::size_t>(i)]);
}

} // namespace

Result<const Scene*> sceneSaid(const Project& p, const std::string& said) {
    for (const auto& s : p.scenes)
        if (s.id == said || s.name == said)
            return &s;
    return noScene(said);
}

std::map<std::string, double> sceneValuesOf(const Project& p, const std::vector<std::string>& paths) {
    std::map<std::string, double> all;
    for (const auto& path : paths)
        if (const auto v = designed(p, path))
            all[path] = *v;
    return all;
}

Result<Edit> keepScene(const Project& p, const std::string& name, const std::string& room,
                       const std::map<std::string, double>& values) {
    if (name.empty())
        return Error{"a scene has a name", "", "Type one, such as Meeting."};
    if (values.empty())
        return Error{"nothing would be set by it", name, "Name the parameters that it is to set."};
    if (values.size() > mostInScene)
        return Error{"a scene sets at most " + std::to_string(mostInScene) + " parameters", name, ""};
    for (const auto& [path, _] : values)
        if (!findTarget(p, path))
            return Error{"there is no such parameter", path, "loomctl drives lists what there is."};
    Scene s;
    s.name = name.substr(0, 120), s.room = room, s.values = values;
    std::set<std::string> taken;
    for (const auto& one : p.scenes) {
        taken.insert(one.id);
        if (one.name == s.name && one.room == room)
            s.id = one.id;
    }
    if (s.id.empty())
        s.id = freeId(taken, s.name);
    return Edit{"Keep the scene " + s.name, [s](Project now) -> Result<Project> {
                    if (auto* was = now.scene(s.id))
                        was->values = s.values;
                    else
                        now.scenes.push_back(s);
                    return now;
                }};
}

Result<Edit> removeScene(const Project& p, const std::string& id) {
    const auto* s = p.scene(id);
    if (!s)
        return noScene(id);
    return Edit{"Take out the scene " + s->name, [id](Project now) -> Result<Project> {
                    erase_if(now.scenes, [&](const Scene& one) { return one.id == id; });
                    return now;
                }};
}

Result<Edit> recallScene(const Project& p, const std::string& id) {
    const auto* s = p.scene(id);
    if (!s)
        return noScene(id);
    std::map<std::string, std::map<std::string, double>> byDevice;
    for (const auto& [path, v] : s->values)
        if (const auto target = findTarget(p, path))
            byDevice[target->device->id][target->block->id + "." + target->param] = v;
    if (byDevice.empty())
        return Error{"nothing of it is there any more", s->name, "Keep it anew."};
    std::vector<Edit> edits;
    for (const auto& [device, values] : byDevice)
        edits.push_back(setValues(device, values, "Recall " + s->name));
    return together(std::move(edits), "Recall " + s->name);
}

} // namespace loom::project
