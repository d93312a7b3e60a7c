#include "surface/bundle.h"
#include "model/block_names.h"
#include "rules/search_words.h"
#include "surface/make_page.h"
#include <algorithm>
#include <cmath>

namespace loom::project {

namespace {

const std::string stripWord = "strip:", groupWord = "group:", beadWord = "bead:";
constexpr double between = 12, stripWide = 132, stripHigh = 320, muteHigh = 56, meterWide = 30;
constexpr std::size_t mostOfBead = 60;

std::optional<std::string> behind(const std::string& path, const std::string& word) {
    return path.rfind(word, 0) == 0 ? std::optional(path.substr(word.size())) : std::nullopt;
}

std::string detailOf(const Strip& s) {
    std::string parts;
    for (const auto& [path, name] : {std::pair(&s.level, "level"), {&s.reading, "meter"}, {&s.mute, "mute"}})
        if (!path->empty())
            parts += std::string(parts.empty() ? "strip: " : ", ") + name;
    return parts;
}

const engine::Block* blockAt(const Project& p, const std::string& place, const Device** device) {
    const auto slash = place.find('/');
    const auto* d = slash == std::string::npos ? nullptr : p.device(place.substr(0, slash));
    *device = d;
    return d && d->program ? d->program->find(place.substr(slash + 1)) : nullptr;
}

// Side by side, from (0, 0).
std::vector<NewControl> strips(const Project& p, const std::vector<Strip>& all, double width) {
    std::vector<NewControl> controls;
    double x = 0, y = 0;
    for (const auto& s : all) {
        if (x > 0 && x + stripWide > width)
            x = 0, y += stripHigh + between;
        for (auto& one : stripControls(p, s, x, y, stripWide, stripHigh, muteHigh, meterWide))
            controls.push_back(std::move(one));
        x += stripWide + between;
    }
    return controls;
}

// What a block has once comes first, its rows behind it; in lines as wide as the page.
std::vector<NewControl> fieldsOf(const Project& p, const Device& d, const engine::Block& b, double width) {
    std::vector<NewControl> controls;
    const engine::BlockView view(b);
    double x = 0, y = 0, line = 0;
    for (const bool rows : {false, true})
        for (const auto& spec : view.table->specs()) {
            if ((spec.id.find('.') != std::string::npos) != rows || controls.size() >= mostOfBead)
                continue;
            const auto drive = controlDrive(p, d.id + "/" + b.id + "." + spec.id);
            if (!drive)
                continue;
            const auto& kind = usualKind(*drive);
            if (x > 0 && x + kind.width > width)
                x = 0, y += line + between, line = 0;
            NewControl n{kind.id, drive->path};
            n.text = spec.label;
            n.x = x, n.y = y;
            n.width = kind.width, n.height = kind.height;
            controls.push_back(n);
            x += kind.width + between;
            line = std::max(line, kind.height);
        }
    return controls;
}

} // namespace

bool isBundle(const std::string& path) {
    return behind(path, stripWord) || behind(path, groupWord) || behind(path, beadWord);
}

std::vector<Bundle> findBundles(const Project& p, const std::string& typed, std::size_t most) {
    const auto words = searchWords(typed);
    std::vector<Bundle> lanes, groups, beads;
    for (const auto& d : p.devices) {
        if (!d.program)
            continue;
        const BlockNames names(*d.program);
        const auto* room = p.room(d.room);
        const auto whole = d.name + " " + (room ? room->name : "") + " ";
        for (const auto& b : d.program->blocks) {
            const auto* kind = engine::findKind(b.kind);
            if (!kind || lanes.size() >= most)
                continue;
            const auto name = names.of(b), place = d.id + "/" + b.id;
            const bool end = engine::endOf(b) != engine::End::none;
            if (end && hasWords(whole + name + " strip lane", words)) {
                if (const auto s = stripOf(d, b))
                    lanes.push_back({stripWord + place, name, detailOf(*s)});
            } else if (b.kind == "automixer" && hasWords(whole + name + " group", words)) {
                groups.push_back({groupWord + place, name, "a strip for each microphone"});
            } else if (!end && !words.empty() && hasWords(whole + name + " all fields", words) &&
                       !engine::BlockView(b).table->specs().empty()) {
                beads.push_back({beadWord + place, name, "all its fields"});
            }
        }
    }
    lanes.insert(lanes.end(), groups.begin(), groups.end());
    lanes.insert(lanes.end(), beads.begin(), beads.end());
    if (lanes.size() > most)
        lanes.resize(most);
    return lanes;
}

namespace {

struct Piece {
    std::string name;
    std::vector<NewControl> controls{}; // from (0, 0)
};

Piece pieceOf(const Project& p, const std::string& path, double width) {
    const Device* d = nullptr;
    if (const auto lane = behind(path, stripWord)) {
        const auto* b = blockAt(p, *lane, &d);
        if (const auto strip = b ? stripOf(*d, *b) : std::nullopt)
            return {strip->name, strips(p, {*strip}, width)};
    } else if (const auto group = behind(path, groupWord)) {
        if (const auto source = pageSource(p, {*group}))
            return {source->title, strips(p, source->strips, width)};
    } else if (const auto bead = behind(path, beadWord)) {
        if (const auto* b = blockAt(p, *bead, &d))
            return {blockName(*d->program, *b), fieldsOf(p, *d, *b, width)};
    } else if (const auto drive = controlDrive(p, path)) {
        const auto& kind = usualKind(*drive);
        NewControl n{kind.id, path};
        n.width = kind.width, n.height = kind.height;
        return {drive->label, {n}};
    }
    return {};
}

} // namespace

Result<Edit> putOnPage(const Project& p, const PagePlace& place, const std::vector<std::string>& paths, double x,
                       double y, const std::string& ply) {
    const auto* s = p.surface(place.surface);
    if (!s || !s->page(place.page))
        return Error{s ? "there is no such page" : "there is no such surface", s ? place.page : place.surface, ""};
    const double width = std::max(stripWide, s->width - 2 * between);
    std::vector<Piece> pieces;
    double atX = 0, atY = 0, line = 0, right = 0, foot = 0;
    for (const auto& path : paths) {
        auto piece = pieceOf(p, path, width);
        if (piece.controls.empty())
            return Error{"nothing there can be turned", path, "loomctl drives lists what there is."};
        double wide = 0, high = 0;
        for (const auto& c : piece.controls)
            wide = std::max(wide, c.x + c.width), high = std::max(high, c.y + c.height);
        if (atX > 0 && atX + wide > width)
            atX = 0, atY += line + between, line = 0;
        for (auto& c : piece.controls)
            c.x += atX, c.y += atY, c.ply = ply;
        right = std::max(right, atX + wide), foot = std::max(foot, atY + high);
        atX += wide + between, line = std::max(line, high);
        pieces.push_back(std::move(piece));
    }
    if (pieces.empty())
        return Error{"nothing is chosen", place.page, "Choose what is to come onto the page."};
    const double dx = std::max(0.0, std::min(std::round(x), s->width - right)),
                 dy = std::max(0.0, std::min(std::round(y), s->height - foot));
    const auto text = pieces.size() == 1 ? "Put " + pieces[0].name + " on the page"
                                         : "Put " + std::to_string(pieces.size()) + " things on the page";
    return changePage(place, text, [p, pieces, dx, dy](SurfacePage& page) -> std::optional<Error> {
        for (const auto& piece : pieces) {
            std::vector<std::string> ids;
            for (auto n : piece.controls) {
                n.x += dx, n.y += dy;
                const auto made = addControl(p, page, n);
                if (!made)
                    return made.error();
                ids.push_back(*made);
            }
            for (std::size_t i = 0; ids.size() > 1 && i < page.plies.size(); ++i)
                for (std::size_t k = 0; k < page.plies[i].controls.size(); ++k)
                    if (std::find(ids.begin(), ids.end(), page.plies[i].controls[k].id) != ids.end())
                        page.plies.change(i).controls.change(k).group = ids.front();
        }
        return {};
    });
}

} // namespace loom::project
