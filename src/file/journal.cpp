#include "file/journal.h"
#include "disk/safe_file.h"
#include "file/project_json.h"
#include "file/store.h"
#include "model/asset_name.h"
#include "schema/json_text.h"
#include <cstring>
#include <ctime>
#include <fcntl.h>
#include <filesystem>
#include <set>
#include <signal.h>
#include <sodium.h>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>

namespace loom::project {
namespace fs = std::filesystem;
using nlohmann::json;

namespace {

constexpr const char* workFile = "work.json";
constexpr const char* unnamedPrefix = "unnamed-";

std::string nowText() {
    const std::time_t now = std::time(nullptr);
    std::tm local{};
    ::localtime_r(&now, &local);
    char text[32];
    return std::string(text, std::strftime(text, sizeof text, "%Y-%m-%d %H:%M", &local));
}

std::string hashOf(const Asset& bytes) {
    unsigned char hash[16];
    crypto_generichash(hash, sizeof hash, reinterpret_cast<const unsigned char*>(bytes.data()), bytes.size(), nullptr,
                       0);
    char hex[2 * sizeof hash + 1];
    return sodium_bin2hex(hex, sizeof hex, hash, sizeof hash);
}

std::string withoutSlash(std::string path) {
    while (path.size() > 1 && path.back() == '/')
        path.pop_back();
    return path;
}

} // namespace

std::string stateFolder() {
    const char *xdg = std::getenv("XDG_STATE_HOME"), *home = std::getenv("HOME");
    return (xdg && *xdg ? std::string(xdg) : std::string(home ? home : ".") + "/.local/state") + "/nimble-loom";
}

std::string journalPath(const std::string& projectPath) {
    return withoutSlash(projectPath) + ".autosave";
}

std::string freshUnnamedJournal() {
    static int count = 0;
    return stateFolder() + "/" + unnamedPrefix + std::to_string(::getpid()) + "-" + std::to_string(++count) +
           ".autosave";
}

std::vector<std::string> unnamedJournals() {
    std::vector<std::string> all;
    std::error_code none;
    for (const auto& e : fs::directory_iterator(stateFolder(), none)) {
        const std::string name = e.path().filename().string();
        if (name.rfind(unnamedPrefix, 0) != 0 || !name.ends_with(".autosave"))
            continue;
        const long pid = std::atol(name.c_str() + std::strlen(unnamedPrefix));
        if (pid > 0 && pid != ::getpid() && ::kill(static_cast<pid_t>(pid), 0) != 0 && errno == ESRCH)
            all.push_back(e.path().string());
    }
    return all;
}

Result<Done> writeJournal(const Project& now, const Project& base, const std::string& journal) {
    std::error_code failed;
    if (fs::is_regular_file(journal, failed)) // a journal of an earlier version, which was one file
        fs::rename(journal, journal + ".old", failed);
    fs::create_directories(journal, failed);
    if (failed)
        return Error{"cannot be made (" + failed.message() + ")", journal, "Save the project somewhere else."};
    json files = json::object();
    std::set<std::string> kept;
    for (const auto& [name, bytes] : now.assets) {
        if (const auto it = base.assets.find(name); it != base.assets.end() && it->second == bytes) {
            files[name] = nullptr; // as saved
            continue;
        }
        const std::string hash = hashOf(bytes);
        files[name] = hash;
        if (kept.insert(hash).second && !fs::exists(journal + "/" + hash, failed))
            if (auto done = writeWhole(journal + "/" + hash, {bytes.data(), bytes.size()}, false); !done)
                return done;
    }
    const json j = {{"of", contentStamp(base)}, {"when", nowText()}, {"files", files}, {"project", toJson(now)}};
    if (auto done = writeWhole(journal + "/" + workFile, j.dump(-1, ' ', false, json::error_handler_t::replace), false);
        !done)
        return done;
    for (const auto& e : fs::directory_iterator(journal, failed))
        if (const auto name = e.path().filename().string(); name != workFile && !kept.count(name))
            fs::remove(e.path(), failed);
    return Done{};
}

std::optional<Recovered> readJournal(const std::string& journal, const Project& base, const ModelSource& models) {
    const auto text = readWhole(journal + "/" + workFile, maxProjectJson + (16u << 20));
    const auto j = text ? parseJson(*text, "") : Result<json>(text.error());
    if (!j || !j->is_object() || !j->contains("project") || !j->value("files", json()).is_object())
        return {};
    auto project = projectFromJson(j->at("project"), models);
    if (!project)
        return {};
    Recovered r{std::move(*project), "", "", {}};
    const auto word = [&](const char* key) {
        const auto value = j->value(key, json());
        return value.is_string() ? value.get<std::string>() : std::string();
    };
    r.based = word("of");
    r.when = word("when");
    r.project.unknownFiles = base.unknownFiles;
    for (const auto& [name, hash] : j->at("files").items()) {
        if (const auto it = base.assets.find(name); hash.is_null() && it != base.assets.end()) {
            r.project.assets[name] = it->second;
        } else if (auto bytes = hash.is_string() && hash.get_ref<const std::string&>().find('/') == std::string::npos
                                    ? readBytes(journal + "/" + hash.get<std::string>(), maxAssets, false)
                                    : Result<std::vector<char>>(Error{});
                   bytes) {
            r.project.assets[name] = std::move(*bytes);
        } else {
            r.gone.push_back(name);
        }
    }
    if (errorInFiles(r.project))
        return {};
    return r;
}

void dropJournal(const std::string& journal) {
    std::error_code none;
    if (fs::is_directory(journal, none))
        fs::remove_all(journal, none);
    else
        fs::remove(journal, none); // of earlier versions
}

// ---- the lock ----

ProjectLock ProjectLock::take(const std::string& projectPath) {
    ProjectLock lock;
    const std::string path = withoutSlash(projectPath) + ".lock";
    for (int tries = 0; tries < 10; ++tries) {
        const int file = ::open(path.c_str(), O_RDWR | O_CREAT | O_NOFOLLOW | O_CLOEXEC, 0666);
        if (file < 0)
            return lock;
        if (::flock(file, LOCK_EX | LOCK_NB) != 0) {
            char text[512]{};
            const ssize_t n = ::pread(file, text, sizeof text - 1, 0);
            ::close(file);
            const auto j = json::parse(std::string(text, n > 0 ? static_cast<std::size_t>(n) : 0), nullptr, false);
            const auto word = [&](const char* key) {
                return j.is_object() && j.value(key, json()).is_string() ? j[key].get<std::string>() : std::string();
            };
            lock.other_ = Holder{word("who"), word("since")};
            return lock;
        }
        // Whoever let it go took the file away; a lock on a file without a name locks nobody out.
        struct stat mine {
        }, there{};
        if (::fstat(file, &mine) != 0 || ::stat(path.c_str(), &there) != 0 || mine.st_ino != there.st_ino) {
            ::close(file);
            continue;
        }
        char host[256]{};
        ::gethostname(host, sizeof host - 1);
        const char* user = std::getenv("USER");
        const std::string text = json{
            {"who", std::string(user && *user ? user : "somebody") + " on " + host},
            {"since", nowText()},
            {"process", ::getpid()}}.dump(-1, ' ', false, json::error_handler_t::replace);
        if (::ftruncate(file, 0) == 0)
            (void)!::pwrite(file, text.data(), text.size(), 0);
        lock.file_ = file;
        lock.path_ = path;
        return lock;
    }
    return lock;
}

ProjectLock::ProjectLock(ProjectLock&& other) noexcept
    : file_(std::exchange(other.file_, -1)), path_(std::move(other.path_)), other_(std::move(other.other_)) {}

ProjectLock& ProjectLock::operator=(ProjectLock&& other) noexcept {
    std::swap(file_, other.file_);
    std::swap(path_, other.path_);
    std::swap(other_, other.other_);
    return *this;
}

ProjectLock::~ProjectLock() {
    if (file_ < 0)
        return;
    ::unlink(path_.c_str()); // while it is still held
    ::close(file_);
}

} // namespace loom::project
