#include "project/voicing_library.h"
#include "project/catalogue.h"
#include "project/json.h"
#include "project/safe_file.h"
#include "project/speaker_edit.h"
#include "project/voicing_json.h"
#include "speaker/response_file.h"
#include <algorithm>
#include <cstdlib>
#include <filesystem>

namespace loom::project {
namespace fs = std::filesystem;
using nlohmann::json;

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
        return Trouble{"is larger than 16 MiB", name, ""};
    auto j = parseJson(text, name);
    if (!j)
        return j.trouble();
    Reader r(*j, "");
    if (r.text("format", true) != format || r.failed())
        return Trouble{std::string("is no ") + what, name, "docs/format.md says what one looks like."};
    if (r.number("version", 0, 1, 1e6) > fileVersion || r.failed())
        return Trouble{"was written by a later version", name, "Use a newer Nimble Loom."};
    return j;
}

VoicingFile readParts(Reader& r) {
    VoicingFile file;
    r.each("voicings", [&](const json& v, const std::string& place) {
        Reader inner(v, place);
        file.voicings.push_back(readVoicing(inner));
        if (inner.failed())
            r.take(inner.trouble());
        else if (file.voicings.size() > mostVoicings)
            r.fail("voicings", "must be 1000 at most");
    });
    r.fields("files", [&](const std::string& name, const json& j) {
        if (!j.is_string() || j.get_ref<const std::string&>().size() > speaker::maxResponseBytes || name.empty() ||
            name.size() > 200 || name.find('/') != std::string::npos)
            r.fail("files/" + name.substr(0, 60), "must be a text of at most 8 MiB under a plain name");
        else {
            const auto& bytes = j.get_ref<const std::string&>();
            file.files[name] = std::vector<char>(bytes.begin(), bytes.end());
        }
    });
    return file;
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
        return j.trouble();
    Reader r(*j, name);
    auto file = readParts(r);
    if (!r.failed() && file.voicings.empty())
        r.fail("voicings", "must hold at least one");
    if (r.failed())
        return r.trouble();
    return file;
}

Project withVoicings(Project p, const VoicingFile& file, std::vector<std::string>* made) {
    std::map<std::string, std::string> renamed; // files that are there under the same name with other bytes
    for (const auto& [name, asset] : file.files) {
        std::string free = name;
        const auto dot = std::min(name.rfind('.'), name.size());
        for (int n = 2; p.assets.count(free) && !(p.assets.at(free) == asset); ++n)
            free = name.substr(0, dot) + "-" + std::to_string(n) + name.substr(dot);
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
        json setup = {{"name", d->name}, {"model", d->model}, {"outputs", toJson(d->outputs)}};
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
        return j.trouble();
    Reader r(*j, name);
    SetupFile file;
    file.file = readParts(r);
    r.each("setups", [&](const json& one, const std::string& place) {
        Reader s(one, place);
        AmplifierSetup setup;
        setup.name = s.text("name", true), setup.model = s.text("model");
        for (auto& [port, out] : readOutputs(s, "outputs"))
            setup.outputs[port].wiring = std::move(out);
        s.fields("voicings", [&](const std::string& port, const json& v) {
            const bool known =
                v.is_string() && std::any_of(file.file.voicings.begin(), file.file.voicings.end(),
                                             [&](const Voicing& one_) { return one_.id == v.get<std::string>(); });
            known ? void(setup.outputs[port].voicing = v.get<std::string>())
                  : s.fail("voicings/" + port, "must name a voicing of this file");
        });
        if (s.failed())
            r.take(s.trouble());
        file.setups.push_back(std::move(setup));
        if (file.setups.size() > mostSetups)
            r.fail("setups", "must be 100 at most");
    });
    if (!r.failed() && file.setups.empty())
        r.fail("setups", "must hold at least one");
    if (r.failed())
        return r.trouble();
    return file;
}

Result<Project> withSetup(Project p, const std::string& amplifier, const SetupFile& file, std::size_t index) {
    const auto& setup = file.setups.at(index);
    const auto* d = p.device(amplifier);
    const auto* m = d ? findModel(d->model) : nullptr;
    if (!m || !m->amplifier)
        return Trouble{"is no amplifier", d ? d->name : amplifier, "Choose one."};
    VoicingFile wanted;
    wanted.files = file.file.files;
    std::vector<std::string> names;
    for (const auto& v : file.file.voicings)
        for (const auto& [port, out] : setup.outputs)
            if (out.voicing == v.id && (names.empty() || names.back() != v.id))
                wanted.voicings.push_back(v), names.push_back(v.id);
    std::vector<std::string> made;
    p = withVoicings(std::move(p), wanted, &made);
    const auto ports = m->ports(false);
    for (const auto& [port, out] : setup.outputs) {
        if (std::find(ports.begin(), ports.end(), port) == ports.end())
            return Trouble{"has no output \"" + port + "\", which \"" + setup.name + "\" sets up",
                           p.device(amplifier)->name, "Choose an amplifier with as many outputs."};
        const auto now = p.device(amplifier)->outputs[port];
        AmplifierOutput next = out.wiring;
        next.loads = now.loads; // what hangs there stays, with the ways and taps of the set-up
        for (std::size_t i = 0; i < next.loads.size(); ++i)
            if (!out.wiring.loads.empty()) {
                const auto& like = out.wiring.loads[std::min(i, out.wiring.loads.size() - 1)];
                next.loads[i].way = like.way, next.loads[i].tapWatts = like.tapWatts;
            }
        auto then = hung(std::move(p), amplifier, port, next);
        if (!then)
            return then.trouble();
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
                if (const auto* m = findModel(d.model); m && m->amplifier)
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

std::vector<KeptVoicing> voicingLibrary(std::vector<Trouble>* troubles) {
    std::vector<KeptVoicing> all;
    std::error_code none;
    for (const auto& e : fs::directory_iterator(voicingFolder(), none)) {
        if (e.path().extension() != ".json" || all.size() >= mostVoicings)
            continue;
        auto text = readWhole(e.path().string(), mostBytes);
        auto read = text ? readVoicings(*text, e.path().string()) : Result<VoicingFile>(text.trouble());
        if (read)
            all.push_back({read->voicings.front().name, e.path().string(), std::move(*read)});
        else if (troubles)
            troubles->push_back(read.trouble());
    }
    std::sort(all.begin(), all.end(), [](const auto& a, const auto& b) { return a.name < b.name; });
    return all;
}

Result<std::string> keepVoicing(const Project& p, const std::string& id, bool replace) {
    const auto* v = p.voicing(id);
    if (!v)
        return Trouble{"there is no such voicing", id, ""};
    std::error_code failed;
    fs::create_directories(voicingFolder(), failed);
    const std::string path = voicingFolder() + "/" + engine::slug(v->name) + ".json";
    if (!replace && fs::exists(path, failed))
        return Trouble{"there is a voicing called \"" + v->name + "\" in the library already", "", "Rename this one."};
    if (auto done = writeWhole(path, voicingText(p, {id}), false); !done)
        return done.trouble();
    return path;
}

} // namespace loom::project
