#include "project/safe_file.h"
#include <cerrno>
#include <cstring>
#include <fcntl.h>
#include <filesystem>
#include <fstream>
#include <sys/stat.h>
#include <unistd.h>

namespace loom::project {
namespace {

Trouble cannot(const std::string& what, const std::string& path) {
    return {"cannot be " + what + " (" + std::strerror(errno) + ")", path, "Choose another place or free some space."};
}

bool writeAll(int file, const std::string& bytes) {
    std::size_t done = 0;
    while (done < bytes.size()) {
        const ssize_t n = ::write(file, bytes.data() + done, bytes.size() - done);
        if (n < 0 && errno == EINTR)
            continue;
        if (n <= 0)
            return false;
        done += static_cast<std::size_t>(n);
    }
    return ::fsync(file) == 0;
}

void syncFolder(const std::string& path) {
    const auto folder = std::filesystem::path(path).parent_path();
    const int d = ::open(folder.empty() ? "." : folder.c_str(), O_RDONLY | O_DIRECTORY);
    if (d >= 0) {
        ::fsync(d);
        ::close(d);
    }
}

} // namespace

Result<Done> writeWhole(const std::string& path, const std::string& bytes, bool keepPrevious) {
    const std::string part = path + ".part";
    const int file = ::open(part.c_str(), O_WRONLY | O_CREAT | O_TRUNC | O_CLOEXEC, 0644);
    if (file < 0)
        return cannot("written", part);
    const bool good = writeAll(file, bytes);
    if (::close(file) != 0 || !good) {
        const Trouble t = cannot("written", part);
        ::unlink(part.c_str());
        return t;
    }
    if (keepPrevious && ::access(path.c_str(), F_OK) == 0) {
        // A hard link, so that there is no moment at which PATH is missing.
        const std::string previous = path + ".previous";
        ::unlink(previous.c_str());
        if (::link(path.c_str(), previous.c_str()) != 0 && errno != EPERM && errno != ENOTSUP)
            return cannot("kept", previous);
    }
    if (::rename(part.c_str(), path.c_str()) != 0)
        return cannot("replaced", path);
    syncFolder(path);
    return Done{};
}

Result<std::string> readWhole(const std::string& path, std::size_t limit) {
    struct stat info {};
    if (::stat(path.c_str(), &info) != 0)
        return Trouble{"cannot be opened (" + std::string(std::strerror(errno)) + ")", path, "Check the name."};
    if (!S_ISREG(info.st_mode))
        return Trouble{"is not a file", path, "Choose a file."};
    if (static_cast<std::size_t>(info.st_size) > limit)
        return Trouble{"is too large (" + std::to_string(info.st_size) + " bytes)", path,
                       "Up to " + std::to_string(limit) + " bytes are read."};
    std::ifstream in(path, std::ios::binary);
    std::string bytes((std::istreambuf_iterator<char>(in)), std::istreambuf_iterator<char>());
    if (!in)
        return Trouble{"cannot be read", path, "Check that you may read it."};
    return bytes;
}

} // namespace loom::project
