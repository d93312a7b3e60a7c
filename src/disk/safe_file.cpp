#include "disk/safe_file.h"
#include <atomic>
#include <cerrno>
#include <cstring>
#include <ctime>
#include <fcntl.h>
#include <filesystem>
#include <random>
#include <sys/stat.h>
#include <unistd.h>

namespace loom::project {
namespace fs = std::filesystem;
namespace {

constexpr const char* onItsWay = ".loom-";
constexpr long forgotten = 3600; // s: what has been on its way for longer was left behind by a kill

Error cannot(const std::string& what, const std::string& path, int why) {
    return {"cannot be " + what + " (" + std::strerror(why) + ")", path, "Choose another place or free some space."};
}

bool writeAll(int file, std::string_view bytes) {
    std::size_t done = 0;
    while (done < bytes.size()) {
        const ssize_t n = ::write(file, bytes.data() + done, bytes.size() - done);
        if (n < 0 && errno == EINTR)
            continue;
        if (n <= 0)
            return false;
        done += static_cast<std::size_t>(n);
    }
    return true;
}

void syncFolder(const fs::path& folder) {
    const int d = ::open(folder.empty() ? "." : folder.c_str(), O_RDONLY | O_DIRECTORY | O_CLOEXEC);
    if (d >= 0) {
        ::fsync(d);
        ::close(d);
    }
}

// Where a chain of links ends; also if nothing is there yet.
std::string behindLinks(std::string path) {
    std::error_code none;
    for (int i = 0; i < 40 && fs::is_symlink(path, none); ++i) {
        const fs::path to = fs::read_symlink(path, none);
        path = (to.is_absolute() ? to : fs::path(path).parent_path() / to).string();
    }
    return path;
}

void removeForgotten(const fs::path& folder) {
    std::error_code none;
    for (const auto& e : fs::directory_iterator(folder.empty() ? "." : folder, none)) {
        struct stat info {};
        if (e.path().filename().string().rfind(onItsWay, 0) == 0 && ::lstat(e.path().c_str(), &info) == 0 &&
            S_ISREG(info.st_mode) && std::time(nullptr) - info.st_mtime > forgotten)
            ::unlink(e.path().c_str());
    }
}

std::string freshName() {
    static std::atomic<unsigned> count{0};
    static const unsigned salt = std::random_device{}();
    return onItsWay + std::to_string(::getpid()) + "-" + std::to_string(salt) + "-" + std::to_string(++count);
}

} // namespace

Result<WholeFile> WholeFile::beside(const std::string& path, Mode mode) {
    WholeFile f;
    f.path_ = behindLinks(path);
    const fs::path folder = fs::path(f.path_).parent_path();
    removeForgotten(folder);
    struct stat before {};
    const bool there = ::stat(f.path_.c_str(), &before) == 0;
    if (there && !S_ISREG(before.st_mode))
        return Error{"is not a file", path, "Choose another name."};
    for (int i = 0; i < 100 && f.file_ < 0; ++i) {
        f.temporary_ = (folder / freshName()).string();
        f.file_ = ::open(f.temporary_.c_str(), O_WRONLY | O_CREAT | O_EXCL | O_NOFOLLOW | O_CLOEXEC,
                         mode == Mode::mine ? 0600
                         : there            ? before.st_mode & 0777
                                            : 0666);
        if (f.file_ < 0 && errno != EEXIST)
            break;
    }
    if (f.file_ < 0)
        return cannot("written", path, errno);
    if (there) {
        (void)!::fchown(f.file_, before.st_uid, before.st_gid); // may be somebody else's; then it is ours from now on
        ::fchmod(f.file_, mode == Mode::mine ? 0600 : before.st_mode & 07777);
    }
    return f;
}

WholeFile::WholeFile(WholeFile&& other) noexcept
    : path_(std::move(other.path_)), temporary_(std::move(other.temporary_)), file_(other.file_) {
    other.file_ = -1;
    other.temporary_.clear();
}

WholeFile::~WholeFile() {
    if (file_ >= 0)
        ::close(file_);
    if (!temporary_.empty())
        ::unlink(temporary_.c_str());
}

Result<Done> WholeFile::write(std::string_view bytes) {
    if (!writeAll(file_, bytes))
        return cannot("written", path_, errno);
    return Done{};
}

Result<Done> WholeFile::become(bool keepPrevious) {
    // Opened anew: whoever filled it by its name may have put another file there.
    const int now = ::open(temporary_.c_str(), O_RDWR | O_NOFOLLOW | O_CLOEXEC);
    const bool synced = now >= 0 && ::fsync(now) == 0;
    const int why = errno;
    if (now >= 0) {
        struct stat like {};
        if (::fstat(file_, &like) == 0)
            ::fchmod(now, like.st_mode & 07777);
        ::close(now);
    }
    if (!synced)
        return cannot("written", path_, why);
    if (keepPrevious && ::access(path_.c_str(), F_OK) == 0) {
        // A hard link put in place by a rename, so that there is no moment at which PATH or its previous is missing.
        const std::string aside = (fs::path(path_).parent_path() / freshName()).string();
        if (::link(path_.c_str(), aside.c_str()) != 0) {
            std::error_code failed; // file systems without hard links
            if (!fs::copy_file(path_, aside, failed))
                return cannot("kept", path_ + ".previous", failed.value());
        }
        if (::rename(aside.c_str(), (path_ + ".previous").c_str()) != 0) {
            const int renamed = errno;
            ::unlink(aside.c_str());
            return cannot("kept", path_ + ".previous", renamed);
        }
        ::unlink(aside.c_str()); // still there where both are the same file already
    }
    if (::rename(temporary_.c_str(), path_.c_str()) != 0)
        return cannot("replaced", path_, errno);
    temporary_.clear();
    syncFolder(fs::path(path_).parent_path());
    return Done{};
}

namespace {
Result<Done> writeAs(const std::string& path, std::string_view bytes, bool keepPrevious, WholeFile::Mode mode) {
    auto file = WholeFile::beside(path, mode);
    if (!file)
        return file.error();
    if (auto done = file->write(bytes); !done)
        return done;
    return file->become(keepPrevious);
}
} // namespace

Result<Done> writeWhole(const std::string& path, std::string_view bytes, bool keepPrevious) {
    return writeAs(path, bytes, keepPrevious, WholeFile::Mode::usual);
}

Result<Done> writePrivate(const std::string& path, std::string_view bytes, bool keepPrevious) {
    return writeAs(path, bytes, keepPrevious, WholeFile::Mode::mine);
}

std::string freePath(const std::string& folder, const std::string& stem, const std::string& extension) {
    std::error_code none;
    const std::string base = folder + "/" + stem.substr(0, 60);
    std::string path = base + extension;
    for (int n = 2; fs::exists(fs::symlink_status(path, none)); ++n)
        path = base + "-" + std::to_string(n) + extension;
    return path;
}

Result<Done> makePrivateFolder(const std::string& path) {
    std::error_code failed;
    const bool there = fs::is_directory(path, failed);
    if (!there)
        fs::create_directories(path, failed);
    if (!fs::is_directory(path, failed))
        return Error{"cannot be made", path, "Choose another folder or free some space."};
    if (!there && ::chmod(path.c_str(), 0700) != 0)
        return cannot("kept to yourself", path, errno);
    return Done{};
}

namespace {

template <class Bytes> Result<Bytes> readAs(const std::string& path, std::size_t limit, bool followLinks) {
    const int file = ::open(path.c_str(), O_RDONLY | O_CLOEXEC | O_NONBLOCK | (followLinks ? 0 : O_NOFOLLOW));
    if (file < 0)
        return errno == ELOOP && !followLinks
                   ? Error{"is a link", path, "Put the file itself there; links are not followed."}
                   : Error{"cannot be opened (" + std::string(std::strerror(errno)) + ")", path, "Check the name."};
    struct stat info {};
    Result<Bytes> result = Error{"is not a file", path, "Choose a file."};
    if (::fstat(file, &info) == 0 && S_ISREG(info.st_mode)) {
        const auto size = static_cast<std::size_t>(info.st_size);
        if (size > limit) {
            result = Error{"is too large (" + std::to_string(size) + " bytes)", path,
                           "Up to " + std::to_string(limit) + " bytes are read."};
        } else {
            Bytes bytes(size, '\0');
            std::size_t done = 0;
            ssize_t n = 1;
            while (done < size && n > 0) {
                n = ::read(file, bytes.data() + done, size - done);
                if (n < 0 && errno == EINTR)
                    n = 1;
                else if (n > 0)
                    done += static_cast<std::size_t>(n);
            }
            if (n < 0)
                result = Error{"cannot be read", path, "Check that you may read it."};
            else {
                bytes.resize(done);
                result = std::move(bytes);
            } // shorter where it was cut meanwhile
        }
    }
    ::close(file);
    return result;
}

} // namespace

Result<std::string> readWhole(const std::string& path, std::size_t limit) {
    return readAs<std::string>(path, limit, true);
}

Result<std::vector<char>> readBytes(const std::string& path, std::size_t limit, bool followLinks) {
    return readAs<std::vector<char>>(path, limit, followLinks);
}

} // namespace loom::project
