#include "surface/pack.h"
#include "file/project_json.h"
#include "model/block_names.h"
#include "rules/control_drive.h"
#include "rules/named_part.h"
#include "rules/surface_paths.h"
#include "surface/control_kind.h"
#include <algorithm>
#include <set>

namespace loom::project {

using nlohmann::json;

namespace {

bool of(const std::string& path, const std::string& device) {
    return path.size() > device.size() && path[device.size()] == '/' && path.compare(0, device.size(), device) == 0;
}

const Scene* sceneIn(const Project& p, const std::string& path) {
    return path.rfind(scenePrefix, 0) == 0 ? p.scene(path.substr(std::char_traits<char>::length(scenePrefix)))
                                           : nullptr;
}

// What of a device's program a surface points to: its blocks as far as drives and labels need them.
void addBlock(const Device& from, Device& to, const std::string& id, const BlockNames& names) {
    const auto* b = from.program->find(id);
    if (!b || to.program->find(id))
        return;
    auto copy = *b;
    copy.label = names.of(*b);
    copy.marks.clear();
    copy.values.clear();
    copy.texts.clear();
    copy.extra.clear();
    to.program->blocks.push_back(copy);
}

} // namespace

std::vector<const Surface*> surfacesOn(const Project& p, const Device& d) {
    std::vector<const Surface*> all;
    for (const auto& s : p.surfaces)
        if (s.device == d.id || (d.program && showersOf(p, s).count(d.id)))
            all.push_back(&s);
    return all;
}

std::map<std::string, PathUse> pathsUsed(const Project& p, const Surface& s) {
    std::map<std::string, PathUse> all;
    const auto may = [&](const std::string& path, double low, double high) {
        auto& use = all[path];
        use.low = use.sets ? std::min(use.low, low) : low;
        use.high = use.sets ? std::max(use.high, high) : high;
        use.sets = true;
    };
    const auto reads = [&](const std::string& path) {
        const auto d = controlDrive(p, path);
        if (!d || path.rfind(cuePrefix, 0) == 0)
            return;
        if (d->kind == Drive::Kind::lanes)
            for (std::size_t i = 0; i < d->lanes.size(); ++i)
                all.try_emplace(d->device + "/" + d->block + "@lane " + std::to_string(i + 1));
        else if (d->kind == Drive::Kind::response) {
            const auto* device = p.device(d->device);
            const engine::BlockView view(*device->program->find(d->block));
            for (const auto& spec : view.table->specs())
                all.try_emplace(d->device + "/" + d->block + "." + spec.id);
        } else if (d->kind == Drive::Kind::scene) {
            for (const auto& [one, _] : p.scene(d->param)->values)
                all.try_emplace(one);
        } else
            all.try_emplace(path);
    };
    eachPath(s, reads);
    for (const auto& page : s.pages)
        for (const auto& ply : page.plies)
            for (const auto& c : ply.controls) {
                const auto* kind = findControlKind(c.kind);
                const auto d = c.param.empty() ? std::nullopt : controlDrive(p, c.param);
                if (!kind || kind->touch == Touch::none || !d || !isSet(*d))
                    continue;
                if (c.param.rfind(cuePrefix, 0) == 0)
                    continue;
                if (d->kind == Drive::Kind::scene) {
                    for (const auto& [one, value] : p.scene(d->param)->values)
                        may(one, value, value);
                } else {
                    const auto range = rangeOf(*d, c);
                    may(d->path, range.low, range.high);
                }
            }
    return all;
}

std::vector<std::string> picturesOf(const Control& c) {
    std::set<std::string> names;
    for (const auto* name : {&c.pictures.always, &c.pictures.off, &c.pictures.on, &c.pictures.mixed,
                             &c.pictures.unknown, &c.pictures.held})
        if (!name->empty())
            names.insert(*name);
    return {names.begin(), names.end()};
}

std::vector<std::string> picturesOf(const Surface& s) {
    std::set<std::string> names;
    for (const auto& page : s.pages)
        for (const auto& ply : page.plies)
            for (const auto& c : ply.controls)
                for (const auto& name : picturesOf(c))
                    names.insert(name);
    return {names.begin(), names.end()};
}

std::string packSurface(const Project& p, const Surface& surface, const std::string& device) {
    Project out;
    out.name = p.name;
    Surface s = surface;
    for (std::size_t i = 0; i < s.pages.size(); ++i) {
        auto& page = s.pages.change(i);
        page.guidesAcross.clear(), page.guidesDown.clear();
        for (std::size_t k = 0; k < page.plies.size(); ++k) {
            auto& ply = page.plies.change(k);
            ply.hiddenHere = ply.locked = false;
            for (std::size_t m = 0; m < ply.controls.size(); ++m)
                if (ply.controls[m].locked || !ply.controls[m].group.empty()) {
                    ply.controls.change(m).locked = false;
                    ply.controls.change(m).group.clear();
                }
        }
    }
    out.surfaces.push_back(s);
    std::set<std::string> paths;
    json tells = json::object();
    NamedPart named(p, out);
    eachPath(surface, [&](const std::string& path) {
        if (const auto drive = controlDrive(p, path); drive && isSignal(*drive)) {
            named.take(path);
            tells[path] = drive->device;
            return;
        }
        paths.insert(path);
        if (const auto* scene = sceneIn(p, path))
            if (!out.scene(scene->id)) {
                out.scenes.push_back(*scene);
                for (const auto& [one, _] : scene->values)
                    paths.insert(one);
            }
    });
    for (const auto& d : p.devices) {
        if (std::none_of(paths.begin(), paths.end(), [&](const auto& path) { return of(path, d.id); }))
            continue;
        Device copy;
        copy.id = d.id, copy.name = d.name, copy.model = d.model, copy.models = d.models, copy.rate = d.rate;
        if (d.program) {
            copy.program.emplace();
            const BlockNames names(*d.program);
            for (const auto& path : paths) {
                if (!of(path, d.id))
                    continue;
                const auto drive = driveOf(p, path);
                if (!drive || drive->block.empty())
                    continue;
                addBlock(d, copy, drive->block, names);
                if (drive->kind == Drive::Kind::lanes) // who is heard on them, by name
                    for (std::size_t lane = 0; lane < drive->lanes.size(); ++lane) {
                        engine::Block who;
                        who.id = engine::freshId(*copy.program, "lane-" + std::to_string(lane + 1));
                        who.kind = "source";
                        who.label = drive->lanes[lane];
                        copy.program->connections.push_back({{who.id, 0}, {drive->block, static_cast<int>(lane)}});
                        copy.program->blocks.push_back(who);
                    }
            }
        }
        out.devices.push_back(copy);
    }
    named.finish();
    json pictures = json::object();
    for (const auto& name : picturesOf(surface))
        if (const auto it = p.assets.find(name); it != p.assets.end())
            pictures[name] = picturePrint(it->second);
    const json all{{"as", device}, {"pictures", pictures}, {"tells", tells}, {"project", toJson(out)}};
    return all.dump(-1, ' ', false, json::error_handler_t::replace);
}

Result<PackedSurface> unpackSurface(const std::string& text, const ModelSource& models) {
    if (text.size() > longestPack)
        return Error{"is longer than 2 MB", "surface", "Take pages out, or split it."};
    auto j = parseJson(text, "surface");
    if (!j)
        return j.error();
    const auto as = j->is_object() ? j->value("as", json()) : json(),
               pictures = j->is_object() ? j->value("pictures", json()) : json(),
               tells = j->is_object() ? j->value("tells", json::object()) : json();
    if (!as.is_string() || !pictures.is_object() || !tells.is_object() || !j->contains("project"))
        return Error{"is no surface that was packed", "surface", "Send it again from the design."};
    PackedSurface out;
    out.as = as.get<std::string>();
    for (const auto& [name, print] : pictures.items()) {
        if (!print.is_string() || print.get_ref<const std::string&>().size() != 16 ||
            print.get_ref<const std::string&>().find_first_not_of("0123456789abcdef") != std::string::npos)
            return Error{"a picture has no print", "surface/pictures/" + name.substr(0, 80), ""};
        out.pictures[name] = print.get<std::string>();
    }
    for (const auto& [path, teller] : tells.items()) {
        if (!teller.is_string())
            return Error{"nobody tells " + path.substr(0, 80), "surface/tells", ""};
        out.tells[path] = teller.get<std::string>();
    }
    auto p = projectFromJson(std::move((*j)["project"]), models);
    if (!p)
        return p.error();
    if (p->surfaces.size() != 1)
        return Error{"holds " + std::to_string(p->surfaces.size()) + " surfaces instead of one", "surface", ""};
    out.surface = p->surfaces.front().id;
    out.project = std::move(*p);
    return out;
}

std::string packPrint(const std::string& text) {
    return text.size() == 17 && text[0] == '#' ? text : "#" + contentPrint(text);
}

std::string picturePrint(const std::vector<char>& bytes) {
    return contentPrint({bytes.data(), bytes.size()});
}

Result<Done> adoptSurface(Project& p, const std::string& id, const std::string& text) {
    auto packed = unpackSurface(text, ModelSource{});
    if (!packed)
        return packed.error();
    Surface s = packed->project.surfaces.front();
    s.id = id;
    auto* mine = p.surface(id);
    if (!mine) {
        p.surfaces.push_back(s);
        return Done{};
    }
    for (std::size_t i = 0; i < s.pages.size(); ++i)
        if (const auto* was = mine->page(s.pages[i].id)) {
            auto& page = s.pages.change(i);
            page.guidesAcross = was->guidesAcross, page.guidesDown = was->guidesDown;
            for (std::size_t k = 0; k < page.plies.size(); ++k) {
                auto& ply = page.plies.change(k);
                for (const auto& before : was->plies)
                    if (before.id == ply.id)
                        ply.hiddenHere = before.hiddenHere, ply.locked = before.locked;
                for (std::size_t m = 0; m < ply.controls.size(); ++m)
                    if (const auto* c = was->control(ply.controls[m].id); c && (c->locked || !c->group.empty())) {
                        ply.controls.change(m).locked = c->locked;
                        ply.controls.change(m).group = c->group;
                    }
            }
        }
    *mine = s;
    return Done{};
}

} // namespace loom::project
