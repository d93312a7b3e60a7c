#include "program/file_prints.h"
#include "engine/play_list.h"
#include <cinttypes>
#include <cstdio>

namespace loom::project {
namespace {

std::string printKey(int number) {
    return number == 1 ? "print" : "print." + std::to_string(number);
}

// An asset never changes: what was worked out for its bytes holds as long as they are held.
std::string printOf(const Asset& asset) {
    constexpr std::size_t mostKnown = 256;
    thread_local std::map<const char*, std::pair<Asset, std::string>> known;
    const auto it = known.find(asset.data());
    if (it != known.end() && asset.size() > 0)
        return it->second.second;
    if (known.size() >= mostKnown)
        known.clear();
    auto print = contentPrint({asset.data(), asset.size()});
    known[asset.data()] = {asset, print};
    return print;
}

} // namespace

// FNV-1a, 64 bit.
std::string contentPrint(std::string_view bytes) {
    std::uint64_t h = 0xcbf29ce484222325ull;
    for (const char c : bytes)
        h = (h ^ static_cast<unsigned char>(c)) * 0x100000001b3ull;
    char hex[20];
    std::snprintf(hex, sizeof hex, "%016" PRIx64, h);
    return hex;
}

engine::Program withoutFilePrints(engine::Program p) {
    for (std::size_t i = 0; i < p.blocks.size(); ++i)
        for (int n = 1; n <= engine::maxPlayList; ++n)
            if (p.blocks[i].texts.count(printKey(n)))
                p.blocks.change(i).texts.erase(printKey(n));
    return p;
}

engine::Program withFilePrints(engine::Program program, const Assets& assets) {
    auto p = withoutFilePrints(std::move(program));
    for (std::size_t i = 0; i < p.blocks.size(); ++i)
        for (int n = 1; n <= engine::maxPlayList; ++n) {
            const auto name = p.blocks[i].texts.find(engine::fileKey(n));
            const auto asset = name == p.blocks[i].texts.end() ? assets.end() : assets.find(name->second);
            if (asset != assets.end())
                p.blocks.change(i).texts[printKey(n)] = printOf(asset->second);
        }
    return p;
}

std::map<std::string, std::string> filePrints(const engine::Program& p) {
    std::map<std::string, std::string> all;
    for (const auto& b : p.blocks)
        for (int n = 1; n <= engine::maxPlayList; ++n) {
            const auto name = b.texts.find(engine::fileKey(n)), print = b.texts.find(printKey(n));
            if (name != b.texts.end() && print != b.texts.end())
                all[name->second] = print->second;
        }
    return all;
}

} // namespace loom::project
