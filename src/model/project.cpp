#include "model/project.h"
#include "engine/block_kind.h"

namespace loom::project {

namespace {

template <class T> const T* found(const List<T>& list, const std::string& id) {
    for (const auto& one : list)
        if (one.id == id)
            return &one;
    return nullptr;
}

template <class T> T* toChange(List<T>& list, const std::string& id) {
    for (std::size_t i = 0; i < list.size(); ++i)
        if (std::as_const(list)[i].id == id)
            return &list.change(i);
    return nullptr;
}

} // namespace

const Device* Project::device(const std::string& id) const {
    return found(devices, id);
}
Device* Project::device(const std::string& id) {
    return toChange(devices, id);
}

Room* Project::room(const std::string& id) {
    for (std::size_t b = 0; b < buildings.size(); ++b)
        for (std::size_t r = 0; r < buildings[b].rooms.size(); ++r)
            if (buildings[b].rooms[r].id == id)
                return &buildings.change(b).rooms.change(r);
    return nullptr;
}

const Voicing* Project::voicing(const std::string& id) const {
    return found(voicings, id);
}
Voicing* Project::voicing(const std::string& id) {
    return toChange(voicings, id);
}
const Surface* Project::surface(const std::string& id) const {
    return found(surfaces, id);
}
Surface* Project::surface(const std::string& id) {
    return toChange(surfaces, id);
}
const Scene* Project::scene(const std::string& id) const {
    return found(scenes, id);
}
Scene* Project::scene(const std::string& id) {
    return toChange(scenes, id);
}
const Rule* Project::rule(const std::string& id) const {
    return found(rules, id);
}
Rule* Project::rule(const std::string& id) {
    return toChange(rules, id);
}
const Script* Project::script(const std::string& id) const {
    return found(scripts, id);
}
Script* Project::script(const std::string& id) {
    return toChange(scripts, id);
}
const OutsideKind* Project::outsideKind(const std::string& id) const {
    return found(outsideKinds, id);
}
OutsideKind* Project::outsideKind(const std::string& id) {
    return toChange(outsideKinds, id);
}
const OutsideDevice* Project::outsideDevice(const std::string& id) const {
    return found(outside, id);
}
OutsideDevice* Project::outsideDevice(const std::string& id) {
    return toChange(outside, id);
}
const Access* Project::accessOf(const std::string& device) const {
    return found(access, device);
}
Access* Project::accessOf(const std::string& device) {
    return toChange(access, device);
}

const AllowedSignal* Access::find(const std::string& wanted) const {
    for (const auto& s : allowed)
        if (s.name == wanted)
            return &s;
    return nullptr;
}

bool isAccessName(const std::string& t) {
    return !t.empty() && t.size() <= 80 && t.front() != '/' && t.back() != '/' && t.find("//") == std::string::npos &&
           t.find_first_not_of("abcdefghijklmnopqrstuvwxyz0123456789-/") == std::string::npos;
}

const OutsideState* OutsideKind::state(const std::string& wanted) const {
    for (const auto& s : states)
        if (s.id == wanted)
            return &s;
    return nullptr;
}
const OutsideCommand* OutsideKind::command(const std::string& wanted) const {
    for (const auto& c : commands)
        if (c.id == wanted)
            return &c;
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
