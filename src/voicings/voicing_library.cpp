#include "voicings/voicing_library.h"
#include "catalogue/catalogue.h"
#include "disk/safe_file.h"
#include "file/project_json.h"
#include "loudspeaker/response_file.h"
#include "model/asset_name.h"
#include "schema/json_text.h"
#include "voicings/voicing_edit.h"
#include <algorithm>
#include <cstdlib>
#include <filesystem>

namespace loom::project {
namespace fs = std::filesystem;
using nlohmann::json;
using schema::At;
using schema::Reading;

namespace {

constexpr int fileVersion = 1;
constexpr std::size_t mostVoicings = 1000, mostBytes = 16u << 20;

void addFile(json& files, const Project& p, const std::string& asset) {
    if (const auto it = p.assets.find(asset); !asset.empty() && it != p.assets.end())
        files[asset] = std::string(it->second.begin(), it->second.end());
}

json voicingsJson(const Project& p, const std::vector<std::string>& ids, json& files) {
    json all = json::array();
    for (const auto& id : ids)
        if (const auto* v = p.voicing(id)) {
            all.push_back(toJson(*v));
            addFile(files, p, v->target);
            for (const auto& w : v->ways) {
                addFile(files, p, w.response);
                addFile(files, p, w.impedance);
                for (const auto& b : w.chain)
                    if (const auto taps = b.texts.find("file"); b.kind == "fir" && taps != b.texts.end())
                        addFile(files, p, taps->second);
            }
        }
    return all;
}

// The text of a file with binary taps cannot stand in JSON; such files are left out with what names them.
std::string dumped(json j) {
    if (j.contains("files"))
        for (auto it = j["files"].begin(); it != j["files"].end();)
            it = it->get_ref<const std::string&>().find('\0') == std::string::npos ? std::next(it)
                                                                                   : j["files"].erase(it);
    return j.dump(2, ' ', false, json::error_handler_t::replace) + "\n";
}

Result<json> opened(const std::string& text, const std::string& name, const char* format, const char* what) {
    if (text.size() > mostBytes)
        return Error{"is larger than 16 MiB", name, ""};
    auto j = parseJson(text, name);
    if (!j)
        return j.error();
    if (!j->is_object() || j->value("format", json()) != format)
        return Error{std::string("is no ") + what, name, "docs/format.md says what one looks like."};
    if (const auto version = j->value("version", json());
        !version.is_number_integer() || version.get<double>() < 1 || version.get<double>() > fileVersion)
        return Error{"was written by a later version", name, "Use a newer Nimble Loom."};
    return j;
}

// A field of the file with what the declarations say of its type.
template <class V>
void readField(V& v, const json& j, const char* key, const schema::Limits& limits, const At& at, Reading& r) {
    if (const auto it = j.find(key); it != j.end() && !r.failed())
        schema::Codec<V>::read(v, *it, limits, At(at, key), r);
}

VoicingFile readParts(const json& j, std::size_t least, const At& at, Reading& r) {
    VoicingFile file;
    readField(file.voicings, j, "voicings", {.maxItems = mostVoicings}, at, r);
    if (!r.failed() && file.voicings.size() < least)
        r.fail(At(at, "voicings"), "must hold at least one");
    std::map<std::string, std::string> files;
    readField(files, j, "files", {.maxText = loudspeaker::maxResponseBytes, .maxItems = 1000}, at, r);
    for (const auto& [name, bytes] : files) {
        if (!isAssetName(name) || name.find('/') != std::string::npos)
            r.fail(At(at, "files"), "must have plain names; \"" + name.substr(0, 60) + "\" is none");
        file.files[name] = std::vector<char>(bytes.begin(), bytes.end());
    }
    return file;
}

AmplifierSetup readSetup(const json& j, const VoicingFile& file, const At& at, Reading& r) {
    AmplifierSetup setup;
    if (!j.is_object() || !j.contains("name"))
        return r.fail(at, "needs the field \"name\""), setup;
    readField(setup.name, j, "name", {}, at, r);
    readField(setup.model, j, "model", {}, at, r);
    AmplifierOutputs outputs;
    readField(outputs, j, "outputs", {}, at, r);
    for (auto& [port, out] : outputs)
        setup.outputs[port].wiring = std::move(out);
    std::map<std::string, std::string> voicings;
    readField(voicings, j, "voicings", {}, at, r);
    for (const auto& [port, id] : voicings) {
        const auto& wanted = id; // clang 14 captures no bindings
        if (std::none_of(file.voicings.begin(), file.voicings.end(), [&](const auto& v) { return v.id == wanted; }))
            r.fail(At(at, "voicings"), "must name voicings of this file; \"" + id.substr(0, 60) + "\" is none");
        setup.outputs[port].voicing = id;
    }
    return setup;
}

std::vector<std::string> voicingsOf(const Project& p, const Device& amplifier,
                                    std::map<std::string, std::string>& byPort) {
    std::vector<std::string> ids;
    for (const auto& [port, out] : amplifier.outputs)
        for (const auto& l : out.loads)
            if (const auto* d = p.device(l.device); d && p.voicing(d->voicing)) {
                byPort.emplace(port, d->voicing);
                if (std::find(ids.begin(), ids.end(), d->voicing) == ids.end())
                    ids.push_back(d->voicing);
            }
    return ids;
}

} // namespace

std::string voicingText(const Project& p, const std::vector<std::string>& ids) {
    json j = {{"format", "nimble-loom-voicings"}, {"version", fileVersion}}, files = json::object();
    j["voicings"] = voicingsJson(p, ids, files);
    if (!files.empty())
        j["files"] = files;
    return dumped(std::move(j));
}

Result<VoicingFile> readVoicings(const std::string& text, const std::string& name) {
    auto j = opened(text, name, "nimble-loom-voicings", "voicing");
    if (!j)
        return j.error();
    Reading r;
    auto file = readParts(*j, 1, At(name), r);
    return r.failed() ? Result<VoicingFile>(r.error()) : Result<VoicingFile>(std::move(file));
}

Project withVoicings(Project p, const VoicingFile& file, std::vector<std::string>* made) {
    std::map<std::string, std::string> renamed; // files that are there under the same name with other bytes
    for (const auto& [name, asset] : file.files) {
        const std::string free = freeAssetName(p.assets, name, asset);
        p.assets[free] = asset;
        renamed[name] = free;
    }
    const auto follow = [&](std::string& name) {
        if (const auto it = renamed.find(name); it != renamed.end())
            name = it->second;
    };
    for (auto v : file.voicings) {
        follow(v.target);
        for (auto& w : v.ways) {
            follow(w.response);
            follow(w.impedance);
            for (auto& b : w.chain)
                if (const auto it = b.texts.find("file"); it != b.texts.end())
                    follow(it->second);
        }
        // The same one, with nothing changed, is there already.
        const auto* same = p.voicing(v.id);
        if (!(same && *same == v)) {
            v.id = freeVoicingId(p, v.id);
            p.voicings.push_back(v);
        }
        if (made)
            made->push_back(v.id);
    }
    return p;
}

std::string setupText(const Project& p, const std::vector<std::string>& amplifiers) {
    json j = {{"format", "nimble-loom-amplifiers"}, {"version", fileVersion}, {"setups", json::array()}};
    json files = json::object();
    std::vector<std::string> used;
    for (const auto& id : amplifiers) {
        const auto* d = p.device(id);
        if (!d || j["setups"].size() >= mostSetups)
            continue;
        std::map<std::string, std::string> byPort;
        for (const auto& v : voicingsOf(p, *d, byPort))
            if (std::find(used.begin(), used.end(), v) == used.end())
                used.push_back(v);
        json setup = {{"name", d->name},
                      {"model", d->model},
                      {"outputs", schema::Codec<AmplifierOutputs>::write(d->outputs, {})}};
        for (const auto& [port, voicing] : byPort)
            setup["voicings"][port] = voicing;
        j["setups"].push_back(setup);
    }
    j["voicings"] = voicingsJson(p, used, files);
    if (!files.empty())
        j["files"] = files;
    return dumped(std::move(j));
}

Result<SetupFile> readSetups(const std::string& text, const std::string& name) {
    auto j = opened(text, name, "nimble-loom-amplifiers", "set-up of amplifiers");
    if (!j)
        return j.error();
    Reading r;
    const At at(name);
    SetupFile file;
    file.file = readParts(*j, 0, at, r);
    const auto setups = j->value("setups", json::array());
    const At list(at, "setups");
    if (!setups.is_array() || setups.empty() || setups.size() > mostSetups)
        r.fail(list, "must be 1 to 100 amplifiers");
    for (std::size_t i = 0; i < setups.size() && !r.failed(); ++i)
        file.setups.push_back(readSetup(setups[i], file.file, At(list, i), r));
    return r.failed() ? Result<SetupFile>(r.error()) : Result<SetupFile>(std::move(file));
}

Result<Project> withSetup(Project p, const std::string& amplifier, const SetupFile& file, std::size_t index) {
    const auto& setup = file.setups.at(index);
    const auto* d = p.device(amplifier);
    const auto* m = d ? d->spec() : nullptr;
    if (!m || !m->amplifier)
        return Error{"is no amplifier", d ? d->name : amplifier, "Choose one."};
    VoicingFile wanted;
    wanted.files = file.file.files;
    std::vector<std::string> names;
    for (const auto& v : file.file.voicings)
        for (const auto& [port, out] : setup.outputs)
            if (out.voicing == v.id && (names.empty() || names.back() != v.id)) {
                wanted.voicings.push_back(v);
                names.push_back(v.id);
            }
    std::vector<std::string> made;
    p = withVoicings(std::move(p), wanted, &made);
    const auto ports = m->ports(false);
    for (const auto& [port, out] : setup.outputs) {
        if (std::find(ports.begin(), ports.end(), port) == ports.end())
            return Error{"has no output \"" + port + "\", which \"" + setup.name + "\" sets up",
                         p.device(amplifier)->name, "Choose an amplifier with as many outputs."};
        const auto now = p.device(amplifier)->outputs[port];
        AmplifierOutput next = out.wiring;
        next.loads = now.loads; // what hangs there stays, with the ways and taps of the set-up
        for (std::size_t i = 0; i < next.loads.size(); ++i)
            if (!out.wiring.loads.empty()) {
                const auto& like = out.wiring.loads[std::min(i, out.wiring.loads.size() - 1)];
                next.loads[i].way = like.way;
                next.loads[i].tapWatts = like.tapWatts;
            }
        auto then = hung(std::move(p), amplifier, port, next);
        if (!then)
            return then.error();
        p = std::move(*then);
        const auto at = std::find(names.begin(), names.end(), out.voicing);
        if (at != names.end())
            for (const auto& l : next.loads)
                if (auto* loudspeaker = p.device(l.device))
                    loudspeaker->voicing = made[static_cast<std::size_t>(at - names.begin())];
    }
    return p;
}

Result<Project> withSetups(Project p, const SetupFile& file, std::vector<std::string>* left) {
    for (std::size_t i = 0; i < file.setups.size(); ++i) {
        std::string amplifier;
        for (const auto& d : p.devices)
            if (d.name == file.setups[i].name)
                if (const auto* m = d.spec(); m && m->amplifier)
                    amplifier = d.id;
        if (amplifier.empty()) {
            if (left)
                left->push_back(file.setups[i].name);
            continue;
        }
        auto then = withSetup(std::move(p), amplifier, file, i);
        if (!then)
            return then;
        p = std::move(*then);
    }
    return p;
}

std::string voicingFolder() {
    return fs::path(modelFolder()).parent_path().string() + "/voicings";
}

std::vector<KeptVoicing> voicingLibrary(std::vector<Error>* errors) {
    std::vector<KeptVoicing> all;
    std::error_code none;
    for (const auto& e : fs::directory_iterator(voicingFolder(), none)) {
        if (e.path().extension() != ".json" || all.size() >= mostVoicings)
            continue;
        auto text = readWhole(e.path().string(), mostBytes);
        auto read = text ? readVoicings(*text, e.path().string()) : Result<VoicingFile>(text.error());
        if (read)
            all.push_back({read->voicings.front().name, e.path().string(), std::move(*read)});
        else if (errors)
            errors->push_back(read.error());
    }
    std::sort(all.begin(), all.end(), [](const auto& a, const auto& b) { return a.name < b.name; });
    return all;
}

Result<std::string> keepVoicing(const Project& p, const std::string& id, bool replace) {
    const auto* v = p.voicing(id);
    if (!v)
        return Error{"there is no such voicing", id, ""};
    std::error_code failed;
    fs::create_directories(voicingFolder(), failed);
    const auto all = voicingLibrary();
    const auto before = std::find_if(all.begin(), all.end(), [&](const auto& e) { return e.name == v->name; });
    if (before != all.end() && !replace)
        return Error{"there is a voicing called \"" + v->name + "\" in the library already", "", "Rename this one."};
    const std::string path =
        before != all.end() ? before->path : freePath(voicingFolder(), engine::slug(v->name), ".json");
    if (auto done = writeWhole(path, voicingText(p, {id}), false); !done)
        return done.error();
    return path;
}

} // namespace loom::project
