#include "project/store.h"
#include "project/json.h"
#include "project/safe_file.h"
#include <cstring>
#include <filesystem>
#include <zip.h>

namespace loom::project {
namespace fs = std::filesystem;
namespace {

constexpr zip_int64_t maxEntries = 4096;

bool safeAssetName(const std::string& name) {
    if (name.empty() || name.size() > 200 || name[0] == '/' || name.find('\\') != std::string::npos)
        return false;
    for (const auto& part : fs::path(name))
        if (part == ".." || part == "." || part.empty())
            return false;
    return true;
}

Result<std::string> readEntry(zip_t* archive, zip_uint64_t index, std::size_t limit, const std::string& place) {
    zip_stat_t info;
    if (zip_stat_index(archive, index, 0, &info) != 0 || !(info.valid & ZIP_STAT_SIZE))
        return Trouble{"is damaged", place, "Open the copy named .previous."};
    if (info.size > limit)
        return Trouble{"unpacks to more than " + std::to_string(limit >> 20) + " MiB", place,
                       "Remove it from the file."};
    zip_file_t* file = zip_fopen_index(archive, index, 0);
    std::string bytes(info.size, '\0');
    // One byte more than announced is asked for: an entry that lies about its size, or fails its checksum, shows here.
    char more = 0;
    const bool good = file && zip_fread(file, bytes.data(), bytes.size()) == static_cast<zip_int64_t>(bytes.size()) &&
                      zip_fread(file, &more, 1) == 0;
    const bool closed = file && zip_fclose(file) == 0;
    if (!good || !closed)
        return Trouble{"is damaged", place, "Open the copy named .previous."};
    return bytes;
}

Result<Project> projectFromText(const std::string& text, const std::string& name) {
    auto json = parseJson(text, name);
    if (!json)
        return json.trouble();
    auto project = projectFromJson(std::move(*json));
    if (!project) {
        Trouble t = project.trouble();
        t.place = name + (t.place.empty() ? "" : " at " + t.place);
        return t;
    }
    return project;
}

Result<Project> readArchive(zip_t* archive, const std::string& name) {
    const zip_int64_t count = zip_get_num_entries(archive, 0);
    if (count > maxEntries)
        return Trouble{"holds more than 4096 entries", name, "It was not made by Nimble Loom."};
    const zip_int64_t main = zip_name_locate(archive, "project.json", 0);
    if (main < 0)
        return Trouble{"holds no project.json", name, "Open a .loom file."};
    auto text = readEntry(archive, static_cast<zip_uint64_t>(main), maxProjectJson, name + ": project.json");
    if (!text)
        return text.trouble();
    auto project = projectFromText(*text, name + ": project.json");
    if (!project)
        return project;
    std::size_t left = maxAssets;
    for (zip_int64_t i = 0; i < count; ++i) {
        const char* entry = zip_get_name(archive, static_cast<zip_uint64_t>(i), 0);
        if (!entry || std::strncmp(entry, "assets/", 7) != 0 || entry[std::strlen(entry) - 1] == '/')
            continue;
        const std::string asset = entry + 7;
        if (!safeAssetName(asset))
            return Trouble{"holds an entry with a name that leaves its folder", name + ": " + entry,
                           "Do not use this file."};
        auto bytes = readEntry(archive, static_cast<zip_uint64_t>(i), left, name + ": " + entry);
        if (!bytes)
            return bytes.trouble();
        left -= bytes->size();
        project->assets[asset] = std::vector<char>(bytes->begin(), bytes->end());
    }
    return project;
}

Result<Project> loadFolder(const fs::path& folder) {
    auto text = readWhole((folder / "project.json").string(), maxProjectJson);
    if (!text)
        return text.trouble();
    auto project = projectFromText(*text, (folder / "project.json").string());
    std::error_code none;
    if (!project || !fs::is_directory(folder / "assets", none))
        return project;
    std::size_t left = maxAssets;
    for (const auto& entry : fs::recursive_directory_iterator(folder / "assets", none)) {
        if (!entry.is_regular_file())
            continue;
        auto bytes = readWhole(entry.path().string(), left);
        if (!bytes)
            return bytes.trouble();
        left -= bytes->size();
        const std::string name = fs::relative(entry.path(), folder / "assets").generic_string();
        project->assets[name] = std::vector<char>(bytes->begin(), bytes->end());
    }
    return project;
}

std::string projectText(const Project& p) {
    return toJson(p).dump(2, ' ', false, nlohmann::json::error_handler_t::replace) + "\n";
}

Result<Done> saveFolder(const Project& project, const fs::path& folder) {
    std::error_code error;
    fs::create_directories(folder / "assets", error);
    if (error)
        return Trouble{"cannot be made (" + error.message() + ")", folder.string(), "Choose another place."};
    for (const auto& [name, bytes] : project.assets) {
        const fs::path to = folder / "assets" / name;
        fs::create_directories(to.parent_path(), error);
        auto done = writeWhole(to.string(), {bytes.begin(), bytes.end()}, false);
        if (!done)
            return done;
    }
    return writeWhole((folder / "project.json").string(), projectText(project), true);
}

bool addEntry(zip_t* archive, const std::string& name, const char* data, std::size_t size, bool squeeze) {
    zip_source_t* source = zip_source_buffer(archive, data, size, 0);
    if (!source)
        return false;
    const zip_int64_t i = zip_file_add(archive, name.c_str(), source, ZIP_FL_ENC_UTF_8);
    if (i < 0) {
        zip_source_free(source);
        return false;
    }
    const auto index = static_cast<zip_uint64_t>(i);
    zip_file_set_dostime(archive, index, 0, 0x2821, 0); // a fixed date: the same project gives the same bytes
    return zip_set_file_compression(archive, index, squeeze ? ZIP_CM_DEFLATE : ZIP_CM_STORE, 0) == 0;
}

nlohmann::json stamp(const std::string& path) {
    std::error_code none;
    const auto size = fs::file_size(path, none);
    if (none)
        return nullptr;
    const auto time = fs::last_write_time(path, none).time_since_epoch().count();
    return {{"size", size}, {"time", time}};
}

} // namespace

Result<std::string> packProject(const Project& project) {
    const std::string text = projectText(project);
    const Trouble failed{"cannot be packed", "project", "Free some memory and save again."};
    zip_error_t error;
    zip_error_init(&error);
    zip_source_t* source = zip_source_buffer_create(nullptr, 0, 0, &error);
    zip_t* archive = source ? zip_open_from_source(source, ZIP_TRUNCATE, &error) : nullptr;
    if (!archive)
        return failed;
    zip_source_keep(source);
    bool good = addEntry(archive, "project.json", text.data(), text.size(), true);
    for (const auto& [name, bytes] : project.assets)
        good = good && addEntry(archive, "assets/" + name, bytes.data(), bytes.size(), false);
    good = good && zip_close(archive) == 0;
    if (!good)
        zip_discard(archive);
    std::string out;
    if (good && zip_source_open(source) == 0) {
        zip_source_seek(source, 0, SEEK_END);
        out.resize(static_cast<std::size_t>(zip_source_tell(source)));
        zip_source_seek(source, 0, SEEK_SET);
        good = zip_source_read(source, out.data(), out.size()) == static_cast<zip_int64_t>(out.size());
        zip_source_close(source);
    }
    zip_source_free(source);
    if (!good)
        return failed;
    return out;
}

Result<Project> unpackProject(const std::string& bytes, const std::string& name) {
    zip_error_t error;
    zip_error_init(&error);
    zip_source_t* source = zip_source_buffer_create(bytes.data(), bytes.size(), 0, &error);
    zip_t* archive = source ? zip_open_from_source(source, ZIP_RDONLY | ZIP_CHECKCONS, &error) : nullptr;
    if (!archive) {
        if (source)
            zip_source_free(source);
        return Trouble{"is not a .loom file, or is damaged", name, "Open the copy named .previous beside it."};
    }
    auto project = readArchive(archive, name);
    zip_discard(archive);
    return project;
}

Result<Project> loadProject(const std::string& path) {
    std::error_code none;
    if (fs::is_directory(path, none))
        return loadFolder(path);
    auto bytes = readWhole(path, maxAssets + maxProjectJson);
    if (!bytes)
        return bytes.trouble();
    return unpackProject(*bytes, path);
}

Result<Done> saveProject(const Project& project, const std::string& path) {
    std::error_code none;
    if (path.ends_with('/') || fs::is_directory(path, none))
        return saveFolder(project, path);
    auto bytes = packProject(project);
    if (!bytes)
        return bytes.trouble();
    return writeWhole(path, *bytes, true);
}

std::string journalPath(const std::string& projectPath) {
    return projectPath + ".autosave";
}

Result<Done> writeJournal(const Project& project, const std::string& projectPath) {
    const nlohmann::json j = {{"of", stamp(projectPath)}, {"project", toJson(project)}};
    return writeWhole(journalPath(projectPath), j.dump(-1, ' ', false, nlohmann::json::error_handler_t::replace),
                      false);
}

std::optional<Project> recoverJournal(const Project& saved, const std::string& projectPath) {
    auto text = readWhole(journalPath(projectPath), maxProjectJson);
    if (!text)
        return {};
    auto json = parseJson(*text, "");
    if (!json || !json->is_object() || !json->contains("project") ||
        json->value("of", nlohmann::json()) != stamp(projectPath))
        return {};
    auto project = projectFromJson(json->at("project"));
    if (!project || toJson(*project) == toJson(saved))
        return {};
    project->assets = saved.assets;
    return *project;
}

void dropJournal(const std::string& projectPath) {
    std::error_code none;
    fs::remove(journalPath(projectPath), none);
}

} // namespace loom::project
