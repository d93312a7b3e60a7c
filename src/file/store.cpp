#include "file/store.h"
#include "disk/safe_file.h"
#include "file/project_json.h"
#include "model/asset_name.h"
#include "schema/json_text.h"
#include <cstring>
#include <filesystem>
#include <set>
#include <sodium.h>
#include <sys/stat.h>
#include <zip.h>

namespace loom::project {
namespace fs = std::filesystem;
namespace {

constexpr const char* assetsPrefix = "assets/";
constexpr int deepestFolder = 32;

std::string mib(std::size_t bytes) {
    return std::to_string(bytes >> 20) + " MiB";
}

Result<Project> projectFromText(const std::string& text, const std::string& name, const ModelSource& models) {
    auto json = parseJson(text, name);
    if (!json)
        return json.error();
    auto project = projectFromJson(std::move(*json), models);
    if (!project) {
        Error t = project.error();
        t.place = name + (t.place.empty() ? "" : " at " + t.place);
        return t;
    }
    return project;
}

// ---- archives ----

Result<std::vector<char>> readEntry(zip_t* archive, zip_uint64_t index, std::size_t limit, const std::string& place) {
    const Error damaged{"is damaged", place, "Open the copy named .previous."};
    zip_stat_t info;
    if (zip_stat_index(archive, index, 0, &info) != 0 || !(info.valid & ZIP_STAT_SIZE))
        return damaged;
    if (info.size > limit)
        return Error{"unpacks to more than " + mib(limit), place, "Remove it from the file."};
    zip_file_t* file = zip_fopen_index(archive, index, 0);
    if (!file)
        return damaged;
    std::vector<char> bytes(info.size);
    // One byte more than announced is asked for: an entry that lies about its size, or fails its checksum, shows here.
    char more = 0;
    const bool good = zip_fread(file, bytes.data(), bytes.size()) == static_cast<zip_int64_t>(bytes.size()) &&
                      zip_fread(file, &more, 1) == 0;
    if (const bool closed = zip_fclose(file) == 0; !good || !closed)
        return damaged;
    return bytes;
}

Result<Project> readArchive(zip_t* archive, const std::string& name, const ModelSource& models) {
    const zip_int64_t count = zip_get_num_entries(archive, 0);
    if (count > static_cast<zip_int64_t>(maxFiles) + 1)
        return Error{"holds more than 4096 entries", name, "It was not made by Nimble Loom."};
    const zip_int64_t main = zip_name_locate(archive, "project.json", 0);
    if (main < 0)
        return Error{"holds no project.json", name, "Open a .loom file."};
    auto bytes = readEntry(archive, static_cast<zip_uint64_t>(main), maxProjectJson, name + ": project.json");
    if (!bytes)
        return bytes.error();
    const std::string text(bytes->begin(), bytes->end());
    bytes->clear();
    bytes->shrink_to_fit();
    auto project = projectFromText(text, name + ": project.json", models);
    if (!project)
        return project;
    std::size_t left = maxAssets;
    for (zip_int64_t i = 0; i < count; ++i) {
        const char* entry = zip_get_name(archive, static_cast<zip_uint64_t>(i), 0);
        if (i == main || !entry || !*entry || entry[std::strlen(entry) - 1] == '/')
            continue;
        const bool asset = std::strncmp(entry, assetsPrefix, std::strlen(assetsPrefix)) == 0;
        const std::string file = asset ? entry + std::strlen(assetsPrefix) : entry;
        if (!isAssetName(file))
            return Error{"holds an entry with a name that cannot be a file's in a project", name + ": " + entry,
                         "Do not use this file."};
        auto content = readEntry(archive, static_cast<zip_uint64_t>(i), left, name + ": " + entry);
        if (!content)
            return content.error();
        left -= content->size();
        (asset ? project->assets : project->unknownFiles)[file] = std::move(*content);
    }
    return project;
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

// All of a project into an open archive; `text` and the project outlive its closing.
bool fillArchive(zip_t* archive, const Project& project, const std::string& text) {
    bool good = addEntry(archive, "project.json", text.data(), text.size(), true);
    for (const auto& [name, bytes] : project.assets)
        good = good && addEntry(archive, assetsPrefix + name, bytes.data(), bytes.size(), false);
    for (const auto& [name, bytes] : project.unknownFiles)
        good = good && addEntry(archive, name, bytes.data(), bytes.size(), true);
    return good;
}

Result<std::string> projectText(const Project& p) {
    std::string text = toJson(p).dump(2, ' ', false, nlohmann::json::error_handler_t::replace) + "\n";
    if (auto wrong = schema::errorInSize(text, "project"))
        return *wrong;
    return text;
}

Result<Done> saveArchive(const Project& project, const std::string& path, const std::string& text) {
    auto file = WholeFile::beside(path);
    if (!file)
        return file.error();
    int error = 0;
    zip_t* archive = zip_open(file->temporary().c_str(), ZIP_CREATE | ZIP_TRUNCATE, &error);
    const bool good = archive && fillArchive(archive, project, text);
    if (!good || zip_close(archive) != 0) {
        const std::string why = archive ? zip_error_strerror(zip_get_error(archive)) : "it cannot be opened";
        if (archive)
            zip_discard(archive);
        return Error{"cannot be written (" + why + ")", path, "Choose another place or free some space."};
    }
    return file->become(true);
}

// ---- folders ----

Result<Done> readFolder(const fs::path& root, const fs::path& folder, int depth, std::size_t& left, Project& into) {
    const auto inside = [&](const fs::path& p) { return p.lexically_relative(root.parent_path()).generic_string(); };
    std::error_code failed;
    fs::directory_iterator entries(folder, failed);
    if (failed)
        return Error{"cannot be read (" + failed.message() + ")", inside(folder), "Check that you may read it."};
    if (depth > deepestFolder)
        return Error{"lies more than 32 folders deep", inside(folder), "Move it up."};
    for (; entries != fs::directory_iterator(); entries.increment(failed)) {
        const fs::path path = entries->path();
        const std::string place = inside(path);
        if (path.filename().string().rfind(".loom-", 0) == 0)
            continue; // left behind on its way
        const auto kind = entries->symlink_status(failed).type();
        if (kind == fs::file_type::directory) {
            if (auto done = readFolder(root, path, depth + 1, left, into); !done)
                return done;
            continue;
        }
        if (kind == fs::file_type::symlink)
            return Error{"is a link", place, "Put the file itself there; links are not followed."};
        const std::string name = path.lexically_relative(root).generic_string();
        if (kind != fs::file_type::regular || !isAssetName(name))
            return Error{"cannot be a file of a project", place, "Take it away or rename it."};
        auto bytes = readBytes(path.string(), left, false);
        if (!bytes)
            return Error{bytes.error().message, place, bytes.error().remedy};
        left -= bytes->size();
        into.assets[name] = std::move(*bytes);
        if (into.assets.size() > maxFiles)
            return Error{"holds more than 4095 files", inside(root), "Take some away."};
    }
    if (failed)
        return Error{"cannot be read (" + failed.message() + ")", inside(folder), "Check that you may read it."};
    return Done{};
}

Result<Project> loadFolder(const fs::path& folder, const ModelSource& models) {
    auto text = readWhole((folder / "project.json").string(), maxProjectJson);
    if (!text)
        return text.error();
    auto project = projectFromText(*text, (folder / "project.json").string(), models);
    std::error_code failed;
    const auto kind = fs::symlink_status(folder / "assets", failed).type();
    if (!project || kind == fs::file_type::not_found)
        return project;
    if (kind == fs::file_type::symlink)
        return Error{"is a link", "assets", "Put the folder itself there; links are not followed."};
    std::size_t left = maxAssets;
    if (auto done = readFolder(folder / "assets", folder / "assets", 0, left, *project); !done)
        return done.error();
    return project;
}

// Error: something on the way from `folder` to one of its files is a link, and would lead outside.
Result<Done> makeWay(const fs::path& folder, const fs::path& file) {
    fs::path way = folder;
    std::error_code failed;
    for (const auto& part : file) {
        way /= part;
        if (fs::symlink_status(way, failed).type() == fs::file_type::symlink)
            return Error{"is a link", way.string(), "Take it away; links are not followed."};
    }
    fs::create_directories(way.parent_path(), failed);
    if (failed)
        return Error{"cannot be made (" + failed.message() + ")", way.parent_path().string(), "Choose another place."};
    return Done{};
}

bool holdsThis(const std::string& path, const Asset& bytes) {
    std::error_code none;
    if (fs::file_size(path, none) != bytes.size() || none)
        return false;
    const auto now = readBytes(path, bytes.size(), false);
    return now && *now == static_cast<const std::vector<char>&>(bytes);
}

Result<Done> writeFiles(const fs::path& folder, const std::string& below, const Assets& files) {
    for (const auto& [name, bytes] : files) {
        const fs::path file = fs::path(below) / name;
        if (auto done = makeWay(folder, file); !done)
            return done;
        const std::string to = (folder / file).string();
        if (!holdsThis(to, bytes))
            if (auto done = writeWhole(to, {bytes.data(), bytes.size()}, false); !done)
                return done;
    }
    return Done{};
}

// Files of assets/ that the project has no longer, and the folders that are empty then.
void removeGone(const fs::path& assets, const Assets& kept) {
    std::vector<fs::path> gone, folders;
    std::error_code none;
    for (fs::recursive_directory_iterator it(assets, none), end; it != end; it.increment(none)) {
        if (none)
            return;
        const auto kind = it->symlink_status(none).type();
        if (kind == fs::file_type::directory)
            folders.push_back(it->path());
        else if (kind == fs::file_type::regular &&
                 !kept.count(it->path().lexically_relative(assets).generic_string()) &&
                 it->path().filename().string().rfind(".loom-", 0) != 0)
            gone.push_back(it->path());
    }
    for (const auto& p : gone)
        fs::remove(p, none);
    for (auto it = folders.rbegin(); it != folders.rend(); ++it)
        fs::remove(*it, none); // only if it is empty
}

// Whether a project lies there already: only then its assets/ is ours to tidy.
bool isProjectFolder(const fs::path& folder) {
    const auto text = readWhole((folder / "project.json").string(), maxProjectJson);
    return text && text->find("\"nimble-loom-project\"") != std::string::npos;
}

// Entries of an archive that nobody knows, as far as they may lie in a folder: nothing hidden (a repository's settings,
// say), and nothing in place of what is there.
Assets harmlessFiles(const Assets& files, const fs::path& folder) {
    Assets all;
    std::error_code none;
    for (const auto& [name, bytes] : files)
        if (name[0] != '.' && name.find("/.") == std::string::npos &&
            fs::symlink_status(folder / name, none).type() == fs::file_type::not_found)
            all[name] = bytes;
    return all;
}

Result<Done> saveFolder(const Project& project, const fs::path& folder, const std::string& text) {
    const bool ours = isProjectFolder(folder);
    std::error_code failed;
    fs::create_directories(folder, failed);
    if (failed)
        return Error{"cannot be made (" + failed.message() + ")", folder.string(), "Choose another place."};
    if (auto done = makeWay(folder, "assets/x"); !done)
        return done;
    for (const auto& done : {writeFiles(folder, "assets", project.assets),
                             writeFiles(folder, "", harmlessFiles(project.unknownFiles, folder)),
                             writeWhole((folder / "project.json").string(), text, true)})
        if (!done)
            return done;
    if (ours)
        removeGone(folder / "assets", project.assets);
    return Done{};
}

} // namespace

Result<std::string> packProject(const Project& project) {
    auto text = projectText(project);
    if (!text)
        return text;
    const Error failed{"cannot be packed", "project", "Free some memory and save again."};
    zip_error_t error;
    zip_error_init(&error);
    zip_source_t* source = zip_source_buffer_create(nullptr, 0, 0, &error);
    zip_t* archive = source ? zip_open_from_source(source, ZIP_TRUNCATE, &error) : nullptr;
    if (!archive)
        return failed;
    zip_source_keep(source);
    bool good = fillArchive(archive, project, *text) && zip_close(archive) == 0;
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

Result<Project> unpackProject(const std::string& bytes, const std::string& name, const ModelSource& models) {
    zip_error_t error;
    zip_error_init(&error);
    zip_source_t* source = zip_source_buffer_create(bytes.data(), bytes.size(), 0, &error);
    zip_t* archive = source ? zip_open_from_source(source, ZIP_RDONLY | ZIP_CHECKCONS, &error) : nullptr;
    if (!archive) {
        if (source)
            zip_source_free(source);
        return Error{"is not a .loom file, or is damaged", name, "Open the copy named .previous beside it."};
    }
    auto project = readArchive(archive, name, models);
    zip_discard(archive);
    return project;
}

Result<Project> loadProject(const std::string& path, const ModelSource& models) {
    std::error_code none;
    if (fs::is_directory(path, none))
        return loadFolder(path, models);
    if (auto there = readWhole(path, 0); !there && !fs::is_regular_file(path, none))
        return there.error();
    int error = 0;
    zip_t* archive = zip_open(path.c_str(), ZIP_RDONLY | ZIP_CHECKCONS, &error);
    if (!archive && error == ZIP_ER_OPEN)
        return Error{"cannot be opened", path, "Check that you may read it."};
    if (!archive)
        return Error{"is not a .loom file, or is damaged", path, "Open the copy named .previous beside it."};
    auto project = readArchive(archive, path, models);
    zip_discard(archive);
    return project;
}

Result<Done> saveProject(const Project& project, const std::string& path) {
    if (auto wrong = errorInFiles(project))
        return *wrong;
    auto text = projectText(project);
    if (!text)
        return text.error();
    std::error_code none;
    if (path.ends_with('/') || fs::is_directory(path, none))
        return saveFolder(project, path, *text);
    return saveArchive(project, path, *text);
}

std::string contentStamp(const Project& p) {
    crypto_generichash_state state;
    crypto_generichash_init(&state, nullptr, 0, 16);
    const auto add = [&](const char* data, std::size_t size) {
        const std::uint64_t length = size; // so that what follows each other cannot be taken for something else
        crypto_generichash_update(&state, reinterpret_cast<const unsigned char*>(&length), sizeof length);
        crypto_generichash_update(&state, reinterpret_cast<const unsigned char*>(data), size);
    };
    const std::string text = toJson(p).dump(-1, ' ', false, nlohmann::json::error_handler_t::replace);
    add(text.data(), text.size());
    for (const auto* files : {&p.assets, &p.unknownFiles})
        for (const auto& [name, bytes] : *files) {
            add(name.data(), name.size());
            add(bytes.data(), bytes.size());
        }
    unsigned char hash[16];
    crypto_generichash_final(&state, hash, sizeof hash);
    char hex[2 * sizeof hash + 1];
    return sodium_bin2hex(hex, sizeof hex, hash, sizeof hash);
}

std::string diskStamp(const std::string& path) {
    const auto one = [](const fs::path& file) {
        struct stat s {};
        if (::stat(file.c_str(), &s) != 0)
            return std::string();
        return std::to_string(s.st_ino) + ":" + std::to_string(s.st_size) + ":" + std::to_string(s.st_mtim.tv_sec) +
               "." + std::to_string(s.st_mtim.tv_nsec) + ";";
    };
    std::error_code none;
    if (!fs::is_directory(path, none))
        return one(path);
    std::set<std::string> files{"project.json " + one(fs::path(path) / "project.json")};
    for (fs::recursive_directory_iterator it(fs::path(path) / "assets", none), end; it != end && !none;
         it.increment(none))
        if (it->is_regular_file(none) && files.size() <= maxFiles)
            files.insert(it->path().string() + " " + one(it->path()));
    std::string all;
    for (const auto& f : files)
        all += f;
    return all;
}

} // namespace loom::project
