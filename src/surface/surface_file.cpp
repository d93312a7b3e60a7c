#include "surface/surface_file.h"
#include "file/base64.h"
#include "file/project_json.h"
#include "model/asset_name.h"
#include "rooms/room_edit.h"
#include "surface/pack.h"
#include "surface/picture_size.h"
#include "surface/surface_edit.h"
#include <algorithm>
#include <set>

namespace loom::project {

namespace {

constexpr const char* surfaceFormat = "nimble-loom-surface";
constexpr std::size_t mostFilePictures = 400;

template <class F> void eachPly(Surface& s, F f) {
    s.pages.changeEach([&](SurfacePage& page) { page.plies.changeEach([&](Ply& ply) { f(ply); }); });
}

// A path or condition with its scene under the id that it has here; each is looked at once.
void renameScene(std::string& text, const std::map<std::string, std::string>& ids) {
    const auto at = text.find(scenePrefix);
    if (at == std::string::npos)
        return;
    const auto from = at + std::char_traits<char>::length(scenePrefix);
    const auto end = std::min(text.find(' ', from), text.size());
    if (const auto it = ids.find(text.substr(from, end - from)); it != ids.end())
        text.replace(from, end - from, it->second);
}

} // namespace

SurfaceFile surfaceFileOf(const Project& p, const Surface& surface) {
    SurfaceFile f;
    f.name = surface.name;
    f.surface = surface;
    f.surface.device.clear();
    std::set<std::string> scenes;
    for (const auto& page : surface.pages)
        for (const auto& ply : page.plies)
            for (const auto& c : ply.controls)
                if (const auto d = c.param.empty() ? std::nullopt : controlDrive(p, c.param);
                    d && d->kind == Drive::Kind::scene && scenes.insert(d->param).second)
                    f.scenes.push_back(*p.scene(d->param));
    for (const auto& name : picturesOf(surface))
        if (const auto it = p.assets.find(name); it != p.assets.end() && !errorInPicture(it->second))
            f.pictures[name] = base64Of(static_cast<const std::vector<char>&>(it->second));
    return f;
}

std::string surfaceFileText(const SurfaceFile& f) {
    return toJson(f).dump(1) + "\n";
}

Result<SurfaceFile> readSurfaceFile(const std::string& text, const std::string& name) {
    if (text.size() > largestSurfaceFile)
        return Error{"is larger than 96 MiB", name, "Scale its pictures to what is shown, and save it again."};
    auto whole = parseJson(text, name);
    if (!whole)
        return whole.error();
    if (!whole->is_object() || whole->value("format", nlohmann::json()) != surfaceFormat)
        return Error{"this is no touch surface", name, "Choose a file that was saved as one in Surfaces."};
    const auto version = whole->value("version", nlohmann::json());
    if (!version.is_number_integer() || version.get<double>() < 1)
        return Error{"the version is missing or not a whole number", name + ": /version", ""};
    if (version.get<double>() > surfaceFileVersion)
        return Error{"this surface was made by a later version of Nimble Loom (surface " + version.dump() +
                         "; this one reads up to " + std::to_string(surfaceFileVersion) + ")",
                     name, "Use it with a newer Nimble Loom."};
    auto read = fromJson<SurfaceFile>(*whole, name + ":");
    if (!read)
        return read.error();
    for (const auto& [picture, data] : read->pictures) {
        const auto place = name + ": /pictures/" + picture.substr(0, 80);
        if (!isAssetName(picture))
            return Error{"is no name of a file", place, "Save it again from the project it comes from."};
        const auto bytes = bytesOfBase64(data);
        if (!bytes)
            return Error{bytes.error().message, place, "Save it again from the project it comes from."};
        if (auto wrong = errorInPicture(*bytes))
            return Error{wrong->message, place, wrong->remedy};
    }
    return read;
}

Result<Edit> addSurfaceFile(const Project& p, const SurfaceFile& file, const std::string& device) {
    auto fresh = addSurface(p, file.name, device, file.surface.width, file.surface.height);
    if (!fresh)
        return fresh.error();
    const auto with = fresh->make(p);
    if (!with)
        return with.error();
    Project after = p;
    Surface s = file.surface;
    const auto& made = with->surfaces.back(); // id, name and screen as it would have
    s.id = made.id, s.device = made.device;
    s.name = file.name;
    if (!device.empty())
        s.width = made.width, s.height = made.height, s.millimetres = made.millimetres;
    for (int n = 2; std::any_of(p.surfaces.begin(), p.surfaces.end(), [&](const auto& o) { return o.name == s.name; });
         ++n)
        s.name = file.name.substr(0, 110) + " " + std::to_string(n);
    std::set<std::string> taken;
    for (const auto& one : p.scenes)
        taken.insert(one.id);
    std::map<std::string, std::string> names; // of scenes
    for (const auto& scene : file.scenes) {
        const auto same = std::find_if(p.scenes.begin(), p.scenes.end(),
                                       [&](const auto& o) { return o.name == scene.name && o.values == scene.values; });
        if (same != p.scenes.end()) {
            names[scene.id] = same->id;
            continue;
        }
        Scene copy = scene;
        copy.id = freeId(taken, scene.id);
        if (!p.room(copy.room)) // of a place that is not here
            copy.room.clear();
        names[scene.id] = copy.id;
        after.scenes.push_back(copy);
    }
    std::map<std::string, std::string> pictures;
    for (const auto& [name, data] : file.pictures)
        if (auto bytes = bytesOfBase64(data)) {
            const Asset asset(std::move(*bytes));
            pictures[name] = freeAssetName(after.assets, name, asset);
            after.assets[pictures[name]] = asset;
        }
    eachPly(s, [&](Ply& ply) {
        renameScene(ply.shown, names);
        ply.controls.changeEach([&](Control& c) {
            for (auto* text : {&c.param, &c.shown, &c.enabled})
                renameScene(*text, names);
            for (auto* name : {&c.pictures.always, &c.pictures.off, &c.pictures.on, &c.pictures.mixed,
                               &c.pictures.unknown, &c.pictures.held})
                if (const auto it = pictures.find(*name); it != pictures.end())
                    *name = it->second;
        });
    });
    after.surfaces.push_back(s);
    return editBetween(p, std::move(after), "Bring in the surface " + s.name);
}

} // namespace loom::project

namespace loom::schema {

using namespace project;

namespace {

Type<SurfaceFile> surfaceFileType() {
    Type<SurfaceFile> t("surfaceFile", "A touch surface as a file of its own");
    t.fixed("format", project::surfaceFormat);
    t.fixed("version", project::surfaceFileVersion);
    t.add("name", &SurfaceFile::name).letters(120).needed();
    t.add("notes", &SurfaceFile::notes).letters(2000);
    t.add("surface", &SurfaceFile::surface).needed();
    t.add("scenes", &SurfaceFile::scenes).items(0, mostScenes).help("those that its controls recall");
    t.add("pictures", &SurfaceFile::pictures).help("files that it shows, base64, by name");
    t.rule([](const SurfaceFile& f, const At& at, Reading& r) {
        if (f.name.empty())
            r.fail(At(at, "name"), "a surface has a name");
        if (f.pictures.size() > project::mostFilePictures)
            r.fail(At(at, "pictures"), "has more than 400 pictures");
    });
    t.extra(&SurfaceFile::extra);
    return t;
}

} // namespace

LOOM_TYPE(SurfaceFile, surfaceFileType)

} // namespace loom::schema
