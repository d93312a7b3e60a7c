#include "catalogue/catalogue.h"
#include "catalogue/describe.h"
#include "disk/safe_file.h"
#include "engine/program.h"
#include "schema/json_text.h"
#include <algorithm>
#include <cstdlib>
#include <filesystem>
#include <mutex>

namespace loom::project {
namespace fs = std::filesystem;

std::shared_ptr<Catalogue> Catalogue::of(std::vector<DeviceModel> models) {
    const std::shared_ptr<Catalogue> made(new Catalogue);
    for (auto& m : models)
        made->keep(std::move(m));
    return made;
}

void Catalogue::keep(DeviceModel model) {
    model.in = weak_from_this();
    models_.push_back(std::move(model));
}

const DeviceModel* Catalogue::find(const std::string& id) const {
    const std::shared_lock hold(lock_);
    for (const auto& m : models_)
        if (m.id == id)
            return &m;
    return nullptr;
}

ModelSource::ModelSource(const Catalogue& of) : of_(of.shared_from_this()) {}

ModelSource::ModelSource(const DeviceModel& model) : of_(model.in.lock()) {}

const DeviceModel* ModelSource::find(const std::string& id) const {
    return of_ ? of_->find(id) : nullptr;
}

std::shared_ptr<Catalogue> openCatalogue() {
    auto read = readCatalogue(dataFolder() + "/catalogue");
    std::vector<DeviceModel> list = read ? std::move(*read) : std::vector<DeviceModel>{};
    std::vector<Error> none;
    if (auto own = readCatalogue(modelFolder(), &none))
        for (auto& m : *own)
            if (std::none_of(list.begin(), list.end(), [&](const auto& o) { return o.id == m.id; })) {
                m.own = true;
                list.push_back(std::move(m));
            }
    return Catalogue::of(std::move(list));
}

Result<DeviceModel> readModel(const std::string& text, const std::string& name) {
    auto json = schema::parseJson(text, name);
    if (!json)
        return json.error();
    auto m = schema::fromJson<DeviceModel>(*json);
    if (!m)
        return Error{"is not a device model: " + m.error().message, name + m.error().place,
                     "docs/format.md lists the fields of a model."};
    return m;
}

std::string modelFolder() {
    const char *xdg = std::getenv("XDG_DATA_HOME"), *home = std::getenv("HOME");
    return (xdg && *xdg ? std::string(xdg) : std::string(home ? home : ".") + "/.local/share") + "/nimble-loom/models";
}

Result<std::string> Catalogue::add(const std::string& text, const std::string& name) {
    auto m = readModel(text, name);
    if (!m)
        return m.error();
    if (find(m->id))
        return Error{"there is a model with the id \"" + m->id + "\" already", name, "Give it another id."};
    std::error_code failed;
    fs::create_directories(modelFolder(), failed);
    const std::string path = freePath(modelFolder(), engine::slug(m->id), ".json"); // ids may differ by signs alone
    if (auto done = writeWhole(path, text, false); !done)
        return done.error();
    m->own = true;
    const std::unique_lock hold(lock_);
    keep(*m);
    return m->id;
}

Result<std::vector<DeviceModel>> readCatalogue(const std::string& folder, std::vector<Error>* errors) {
    std::vector<std::string> files;
    std::error_code none;
    for (const auto& e : fs::directory_iterator(folder, none))
        if (e.path().extension() == ".json")
            files.push_back(e.path().string());
    std::sort(files.begin(), files.end());
    std::vector<DeviceModel> read;
    for (const auto& f : files) {
        auto text = readWhole(f, 1 << 20);
        auto m = text ? readModel(*text, f) : Result<DeviceModel>(text.error());
        if (m)
            read.push_back(*m);
        else if (errors)
            errors->push_back(m.error());
        else
            return m.error();
    }
    return read;
}

std::string dataFolder() {
    if (const char* set = std::getenv("NIMBLE_LOOM_DATA"))
        return set;
    std::error_code none;
    const fs::path program = fs::read_symlink("/proc/self/exe", none).parent_path();
    for (const fs::path& p : {program / "../share/nimble-loom", program / "../..", program / "../../.."})
        if (fs::is_directory(p / "catalogue", none))
            return fs::weakly_canonical(p, none).string();
    return ".";
}

} // namespace loom::project
