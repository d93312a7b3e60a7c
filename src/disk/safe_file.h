// Files that are whole or not there: written beside, synced, renamed.
#pragma once
#include "engine/result.h"
#include <string>
#include <string_view>
#include <vector>

namespace loom::project {

// A file on its way. It is written under a name of its own (".loom-...") in the folder where it will lie, which nobody
// else has and which is never a link; a kill or power cut at any moment leaves the old or the new content at PATH,
// whole. Where PATH is a link, the file that it leads to is replaced. The mode of what is replaced is kept.
class WholeFile {
  public:
    enum class Mode { usual, mine }; // mine: nobody else may read it, whatever was there before
    static Result<WholeFile> beside(const std::string& path, Mode mode = Mode::usual);
    WholeFile(WholeFile&& other) noexcept;
    WholeFile& operator=(WholeFile&&) = delete;
    ~WholeFile(); // gone, unless it became the file
    const std::string& temporary() const { return temporary_; }
    Result<Done> write(std::string_view bytes);
    // Synced and renamed. keepPrevious: what was at PATH stays as PATH.previous.
    Result<Done> become(bool keepPrevious);

  private:
    WholeFile() = default;
    std::string path_, temporary_;
    int file_ = -1;
};

// Writes `bytes` that way. Any number of writers may do so at once; the last one stays.
Result<Done> writeWhole(const std::string& path, std::string_view bytes, bool keepPrevious);

// A path in the folder that nothing has yet: FOLDER/stem.json, else FOLDER/stem-2.json ... stem: cut to 60 bytes.
std::string freePath(const std::string& folder, const std::string& stem, const std::string& extension);

// What nobody else on this computer is to read: a file of mode 0600, a folder of mode 0700 (those above it as usual).
Result<Done> writePrivate(const std::string& path, std::string_view bytes, bool keepPrevious);
Result<Done> makePrivateFolder(const std::string& path);

// Reads a file of at most `limit` bytes. followLinks: else a link is a error.
Result<std::string> readWhole(const std::string& path, std::size_t limit);
Result<std::vector<char>> readBytes(const std::string& path, std::size_t limit, bool followLinks = true);

} // namespace loom::project
