#include "model/asset_name.h"
#include "dsp/number.h"

namespace loom::project {
namespace {

constexpr std::size_t longestPart = 255, longestName = 1024;

bool goodPart(const std::string& part) {
    if (part.empty() || part.size() > longestPart || part == "." || part == ".." || part.rfind(".loom-", 0) == 0)
        return false; // .loom-...: what is being written (disk/safe_file.h)
    for (const unsigned char c : part)
        if (c < 0x20 || c == 0x7F || c == '\\')
            return false;
    return true;
}

} // namespace

bool isAssetName(const std::string& name) {
    if (name.empty() || name.size() > longestName)
        return false;
    for (std::size_t from = 0; from <= name.size();) {
        const auto end = std::min(name.find('/', from), name.size());
        if (!goodPart(name.substr(from, end - from)))
            return false;
        from = end + 1;
    }
    return true;
}

std::string assetNameFrom(const std::string& wanted) {
    std::string name;
    for (const char c : wanted)
        name += static_cast<unsigned char>(c) < 0x20 || c == 0x7F || c == '\\' || c == '/' ? '-' : c;
    if (name.rfind(".loom-", 0) == 0 || name == "." || name == ".." || name.empty())
        name = "file" + name;
    if (name.size() > longestPart) {
        const auto dot = name.rfind('.');
        const std::string ending = dot != std::string::npos && name.size() - dot <= 16 ? name.substr(dot) : "";
        std::size_t end = longestPart - ending.size();
        while (end > 0 && (static_cast<unsigned char>(name[end]) & 0xC0) == 0x80) // whole letters
            --end;
        name = name.substr(0, end) + ending;
    }
    return name;
}

std::string freeAssetName(const Assets& assets, const std::string& wanted, const Asset& bytes) {
    const std::string name = assetNameFrom(wanted);
    const auto dot = std::min(name.rfind('.'), name.size());
    std::string free = name;
    for (int n = 2; assets.count(free) && !(assets.at(free) == bytes); ++n)
        free = assetNameFrom(name.substr(0, dot) + "-" + std::to_string(n) + name.substr(dot));
    return free;
}

std::optional<Error> errorInFiles(const Project& p) {
    std::size_t bytes = 0;
    for (const auto* files : {&p.assets, &p.unknownFiles})
        for (const auto& [name, content] : *files) {
            if (!isAssetName(name))
                return Error{"cannot be the name of a file in a project", name.substr(0, 80),
                             "Use letters, digits, blanks and points, up to 255 bytes between two slashes."};
            bytes += content.size();
        }
    if (p.assets.size() + p.unknownFiles.size() > maxFiles)
        return Error{"a project holds 4095 files at most", "", "Take some out first."};
    if (bytes > maxAssets)
        return Error{print("the files of the project would take %d MiB", bytes >> 20), "",
                     print("%d MiB at most; take some out first.", maxAssets >> 20)};
    return {};
}

} // namespace loom::project
