#include "disk/pdf_text.h"
#include <algorithm>
#include <array>
#include <cctype>
#include <cerrno>
#include <chrono>
#include <csignal>
#include <fcntl.h>
#include <filesystem>
#include <poll.h>
#include <spawn.h>
#include <sys/wait.h>
#include <unistd.h>

extern char** environ;

namespace loom::project {
namespace {

struct Ran {
    int status = -1; // of its exit; -1: it could not be started
    bool late = false, long_ = false;
    std::string out, error;
};

// Runs a program with nothing on its input; bounded in time and in what it says.
Ran run(const std::vector<std::string>& words, std::size_t most, std::chrono::seconds patience) {
    Ran r;
    std::array<int, 2> out{}, error{};
    if (pipe2(out.data(), O_CLOEXEC) != 0)
        return r;
    if (pipe2(error.data(), O_CLOEXEC) != 0) {
        close(out[0]);
        close(out[1]);
        return r;
    }
    posix_spawn_file_actions_t actions;
    posix_spawn_file_actions_init(&actions);
    posix_spawn_file_actions_addopen(&actions, 0, "/dev/null", O_RDONLY, 0);
    posix_spawn_file_actions_adddup2(&actions, out[1], 1);
    posix_spawn_file_actions_adddup2(&actions, error[1], 2);
    std::vector<char*> argv;
    for (const auto& w : words)
        argv.push_back(const_cast<char*>(w.c_str()));
    argv.push_back(nullptr);
    pid_t child = 0;
    const bool started = posix_spawnp(&child, argv[0], &actions, nullptr, argv.data(), environ) == 0;
    posix_spawn_file_actions_destroy(&actions);
    close(out[1]);
    close(error[1]);
    if (started) {
        const auto end = std::chrono::steady_clock::now() + patience;
        std::array<pollfd, 2> both{{{out[0], POLLIN, 0}, {error[0], POLLIN, 0}}};
        int open = 2;
        while (open > 0 && !r.late && !r.long_) {
            const auto left =
                std::chrono::duration_cast<std::chrono::milliseconds>(end - std::chrono::steady_clock::now());
            if (left.count() <= 0 || (poll(both.data(), 2, static_cast<int>(left.count())) == 0)) {
                r.late = true;
                break;
            }
            for (std::size_t k = 0; k < 2; ++k) {
                if (both[k].fd < 0 || both[k].revents == 0)
                    continue;
                std::array<char, 65536> piece{};
                const auto got = read(both[k].fd, piece.data(), piece.size());
                if (got <= 0 && !(got < 0 && errno == EINTR)) {
                    both[k].fd = -1;
                    --open;
                } else if (got > 0) {
                    auto& to = k == 0 ? r.out : r.error;
                    to.append(piece.data(), static_cast<std::size_t>(got));
                    r.long_ = r.long_ || to.size() > most;
                }
            }
        }
        if (r.late || r.long_)
            kill(child, SIGKILL);
        int status = 0;
        while (waitpid(child, &status, 0) < 0 && errno == EINTR) {
        }
        r.status = WIFEXITED(status) ? WEXITSTATUS(status) : 128;
    }
    close(out[0]);
    close(error[0]);
    return r;
}

} // namespace

bool isPdf(const std::string& bytes) {
    return bytes.substr(0, 1024).find("%PDF-") != std::string::npos;
}

Result<std::string> pdfText(const std::string& path) {
    const std::string name = std::filesystem::path(path).filename().string();
    std::error_code error;
    const auto size = std::filesystem::file_size(path, error);
    if (error)
        return Error{"cannot be read", path, "Is it still there, and may you read it?"};
    if (size > maxPdfBytes)
        return Error{"is larger than 64 MiB", name, "Print the pages that matter into a PDF of their own."};
    const auto r =
        run({"pdftotext", "-layout", "-enc", "UTF-8", "--", path, "-"}, maxPdfText, std::chrono::seconds(20));
    if (r.status == -1 || r.status == 127)
        return Error{"cannot be read: pdftotext is not installed", name,
                     "Install poppler-utils, or copy the text out of the PDF."};
    if (r.late)
        return Error{"takes too long to read", name, "Print the pages that matter into a PDF of their own."};
    if (r.long_)
        return Error{"has more than 16 MiB of text", name, "Print the pages that matter into a PDF of their own."};
    const bool locked =
        r.error.find("password") != std::string::npos || r.error.find("ncrypt") != std::string::npos || r.status == 3;
    if (r.status != 0 && locked)
        return Error{"is encrypted", name, "Open it with its password and print it into another PDF."};
    if (r.status != 0)
        return Error{"is no PDF that can be read", name, "Open it in a viewer and copy its text."};
    const auto letters =
        std::count_if(r.out.begin(), r.out.end(), [](char c) { return !std::isspace(static_cast<unsigned char>(c)); });
    if (letters < 10)
        return Error{"has no text: its pages are pictures", name,
                     "It is a scan. Type what matters, or let a program for scans read it first."};
    return r.out;
}

} // namespace loom::project
