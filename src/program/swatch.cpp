#include "program/swatch.h"
#include "catalogue/catalogue.h"
#include "disk/safe_file.h"
#include "engine/block_kind.h"
#include "engine/schedule.h"
#include "file/project_json.h"
#include "model/block_names.h"
#include "program/ports.h"
#include "program/program_edit.h"
#include "program/routes.h"
#include "schema/json_text.h"
#include <algorithm>
#include <cstdlib>
#include <filesystem>
#include <set>

namespace loom::project {
namespace fs = std::filesystem;
namespace {

using engine::Block;
using engine::End;
using engine::PortRef;
using engine::Program;

constexpr const char* format = "nimble-loom-swatch";
constexpr std::size_t mostBytes = 4 << 20, mostBlocks = 2000, mostFiles = 1000;

Result<Inserted> insertChain(const Device& device, const std::vector<std::string>& lanes, const std::string& after,
                             const Swatch& swatch) {
    Inserted in{*device.program, {}, {}};
    const auto order = swatch.order();
    if (lanes.empty())
        return Error{"\"" + swatch.name + "\" lies on a lane", "", "Choose the lanes it is meant for first."};
    for (const auto& lane : lanes) {
        const auto* end = in.program.find(lane);
        const bool destination = end && engine::outputsOf(in.program, *end) == 0;
        PortRef at = !after.empty() && lanes.size() == 1 ? PortRef{after, 0}
                     : destination                       ? PortRef{lane, 0}
                                                         : openEnd(in.program, lane);
        for (const auto& id : order) {
            const Block& b = *swatch.piece.find(id);
            auto made = insertBlock(in.program, b.kind, at, lane);
            if (!made)
                return made.error();
            in.program = std::move(made->program);
            Block& now = *in.program.find(made->block);
            const std::string own = now.id;
            now = b;
            now.id = own;
            in.blocks.push_back(own);
            if (!destination || (!after.empty() && lanes.size() == 1))
                at = {own, 0};
        }
    }
    return in;
}

Result<Inserted> insertPiece(const Device& device, const Swatch& swatch) {
    Inserted in{*device.program, {}, {}};
    std::map<std::string, std::string> names; // in the piece, and here
    Device now = device;
    for (const Block& b : swatch.piece.blocks) {
        const auto end = engine::endOf(b);
        const auto port = b.texts.find("port");
        if (end != End::none && port != b.texts.end()) {
            const auto free = freePorts(now, *engine::findKind(b.kind));
            if (std::find(free.begin(), free.end(), port->second) == free.end()) {
                in.leftOut += (in.leftOut.empty() ? "" : ", ") + blockName(swatch.piece, b) + " (" + port->second + ")";
                continue;
            }
        }
        Block copy = b;
        copy.id = engine::freshId(in.program, b.id);
        names[b.id] = copy.id;
        in.blocks.push_back(copy.id);
        in.program.blocks.push_back(copy);
        now.program = in.program;
    }
    for (const auto& t : swatch.piece.connections)
        if (names.count(t.from.block) && names.count(t.to.block))
            in.program.connections.push_back({{names[t.from.block], t.from.port}, {names[t.to.block], t.to.port}});
    if (!in.leftOut.empty())
        in.leftOut = "Left out, since " + device.name +
                     " has these ports once and they are in use or not there: " + in.leftOut + ".";
    std::stable_sort(in.blocks.begin(), in.blocks.end(), [&](const auto& a, const auto& b) {
        return (engine::endOf(*in.program.find(a)) != End::none) > (engine::endOf(*in.program.find(b)) != End::none);
    });
    if (auto order = engine::runningOrder(in.program); !order)
        return order.error();
    return in;
}

} // namespace

std::vector<std::string> Swatch::order() const {
    const Program& p = piece;
    std::vector<std::string> all;
    std::string at;
    for (const auto& b : p.blocks)
        if (!p.into({b.id, 0}))
            at = b.id;
    while (!at.empty() && all.size() < p.blocks.size()) {
        all.push_back(at);
        std::string next;
        for (const auto& t : p.connections)
            if (t.from.block == at)
                next = t.to.block;
        at = next;
    }
    return all;
}

bool Swatch::chain() const {
    if (piece.blocks.empty() || piece.connections.size() + 1 != piece.blocks.size())
        return false;
    for (const auto& b : piece.blocks)
        if (const auto* kind = engine::findKind(b.kind);
            !kind || engine::inputsOf(piece, b) != 1 || engine::outputsOf(piece, b) != 1)
            return false;
    return order().size() == piece.blocks.size();
}

Result<Swatch> makeSwatch(const engine::Layout& layout, const Program& p, const std::vector<std::string>& lanes,
                          const std::string& block, const std::string& name, const std::string& notes) {
    std::set<std::string> ids;
    const auto* only = lanes.size() == 1 ? layout.laneOf(lanes.front()) : nullptr;
    if (!block.empty())
        ids.insert(block);
    else if (only && !only->beads.empty())
        ids.insert(only->beads.begin(), only->beads.end());
    else
        for (const auto& l : lanes) {
            ids.insert(l);
            if (const auto* lane = layout.laneOf(l))
                ids.insert(lane->beads.begin(), lane->beads.end());
        }
    if (ids.empty())
        return Error{"nothing is chosen to keep", "", "Choose a lane, a block or several lanes."};
    if (name.empty() || name.size() > 80 || name.find('/') != std::string::npos)
        return Error{"a swatch needs a name of at most 80 letters, without \"/\"", "", ""};
    Swatch s{name, notes, {}};
    for (const auto& b : p.blocks)
        if (ids.count(b.id))
            s.piece.blocks.push_back(b);
    for (const auto& t : p.connections)
        if (ids.count(t.from.block) && ids.count(t.to.block))
            s.piece.connections.push_back(t);
    s.piece.blocks.changeEach([](engine::Block& b) {
        for (const char* key : {"place", "link", "apart", "folded"}) // belong to the project it comes from
            b.marks.erase(key);
    });
    return s;
}

std::string swatchText(const Swatch& s) {
    return toJson(s).dump(1) + "\n";
}

Result<Swatch> readSwatch(const std::string& text, const std::string& name) {
    if (text.size() > mostBytes)
        return Error{"is larger than 4 MiB", name, "A swatch holds no sound; use the file as it was saved."};
    auto json = parseJson(text, name);
    if (!json)
        return json.error();
    if (!json->is_object() || json->value("format", nlohmann::json()) != format)
        return Error{"this is not a swatch", name, "Choose a file that was shared as one."};
    const auto version = json->value("version", nlohmann::json());
    if (!version.is_number_integer() || version.get<double>() < 1)
        return Error{"the version is missing or not a whole number", name + ": /version", ""};
    if (version.get<double>() > swatchVersion)
        return Error{"this swatch was made by a later version of Nimble Loom (swatch " + version.dump() +
                         "; this one reads up to " + std::to_string(swatchVersion) + ")",
                     name, "Use it with a newer Nimble Loom."};
    auto read = fromJson<Swatch>(*json, name + ":");
    if (!read)
        return read.error();
    const auto* piece = &read->piece;
    for (const auto& b : piece->blocks)
        if (!engine::findKind(b.kind))
            return Error{"the swatch holds a block of a kind that is not known here (" + b.kind + ")", name,
                         "Use it with a newer Nimble Loom."};
    if (auto order = engine::runningOrder(*piece); !order)
        return Error{order.error().message, name, order.error().remedy};
    return read;
}

Result<Inserted> insertSwatch(const Device& device, const std::vector<std::string>& lanes, const std::string& after,
                              const Swatch& swatch) {
    if (!device.program)
        return Error{"has no program", device.id, "Choose a processor."};
    return swatch.chain() ? insertChain(device, lanes, after, swatch) : insertPiece(device, swatch);
}

std::string libraryFolder() {
    if (const char* xdg = std::getenv("XDG_DATA_HOME"); xdg && *xdg)
        return std::string(xdg) + "/nimble-loom/swatches";
    const char* home = std::getenv("HOME");
    return std::string(home ? home : ".") + "/.local/share/nimble-loom/swatches";
}

std::vector<LibraryEntry> library(std::vector<Error>* errors) {
    std::vector<LibraryEntry> all;
    for (const bool own : {true, false}) {
        std::vector<std::string> files;
        std::error_code none;
        for (const auto& e : fs::directory_iterator(own ? libraryFolder() : dataFolder() + "/swatches", none))
            if (e.path().extension() == ".json" && files.size() < mostFiles)
                files.push_back(e.path().string());
        std::sort(files.begin(), files.end());
        for (const auto& f : files) {
            auto text = readWhole(f, mostBytes);
            auto read = text ? readSwatch(*text, f) : Result<Swatch>(text.error());
            if (read)
                all.push_back({std::move(*read), f, own});
            else if (errors)
                errors->push_back(read.error());
        }
    }
    std::stable_sort(all.begin(), all.end(),
                     [](const auto& a, const auto& b) { return a.swatch.name < b.swatch.name; });
    return all;
}

namespace {

Result<LibraryEntry> ownSwatch(const std::string& name) {
    for (auto& entry : library())
        if (entry.own && entry.swatch.name == name)
            return std::move(entry);
    return Error{"there is no swatch \"" + name + "\" in your own library", libraryFolder(),
                 "Those that ship with Nimble Loom stay as they are."};
}

} // namespace

Result<std::string> keepSwatch(const Swatch& swatch, bool replace) {
    std::error_code failed;
    fs::create_directories(libraryFolder(), failed);
    const auto before = ownSwatch(swatch.name);
    if (before && !replace)
        return Error{"there is a swatch called \"" + swatch.name + "\" already", "", "Choose another name."};
    // By its name, not by its file: two names may become the same file's.
    const std::string path = before ? before->path : freePath(libraryFolder(), engine::slug(swatch.name), ".json");
    if (auto done = writeWhole(path, swatchText(swatch), false); !done)
        return done.error();
    return path;
}

Result<std::string> removeSwatch(const std::string& name) {
    const auto entry = ownSwatch(name);
    if (!entry)
        return entry.error();
    std::error_code failed;
    const fs::path folder = fs::path(libraryFolder()) / "removed";
    fs::create_directories(folder, failed);
    const fs::path to = freePath(folder.string(), fs::path(entry->path).stem().string(), ".json");
    fs::rename(entry->path, to, failed);
    if (failed)
        return Error{"cannot be moved: " + failed.message(), entry->path, "Look at the rights of that folder."};
    return to.string();
}

Result<std::string> renameSwatch(const std::string& name, const std::string& newName) {
    auto entry = ownSwatch(name);
    if (!entry)
        return entry.error();
    entry->swatch.name = newName;
    const auto kept = keepSwatch(entry->swatch, false);
    std::error_code failed;
    if (kept)
        fs::remove(entry->path, failed);
    return kept;
}

} // namespace loom::project

namespace loom::schema {

using project::Swatch;

namespace {

Type<Swatch> swatchType() {
    Type<Swatch> t("swatch", "A piece of a program that is kept to be used again");
    t.fixed("format", project::format);
    t.fixed("version", project::swatchVersion);
    t.add("name", &Swatch::name).letters(2000).needed();
    t.add("notes", &Swatch::notes).letters(2000);
    t.add("program", &Swatch::piece).always();
    t.rule([](const Swatch& s, const At& at, Reading& r) {
        if (s.name.empty() || s.piece.blocks.empty() || s.piece.blocks.size() > project::mostBlocks)
            r.fail(at, "a swatch has a name and 1 to 2,000 blocks");
    });
    t.extra(&Swatch::extra);
    return t;
}

} // namespace

LOOM_TYPE(Swatch, swatchType)

} // namespace loom::schema
