// Edits of the controls on a page.
#include "model/asset_name.h"
#include "model/describe.h"
#include "rooms/room_edit.h"
#include "surface/harm.h"
#include "surface/icons.h"
#include "surface/picture_size.h"
#include "surface/surface_edit.h"
#include <algorithm>
#include <cmath>
#include <set>

namespace loom::project {

namespace {

using Ids = std::vector<std::string>;

bool has(const Ids& ids, const std::string& id) {
    return std::find(ids.begin(), ids.end(), id) != ids.end();
}

std::string several(const char* what, const Ids& ids) {
    return std::string(what) + " " + (ids.size() == 1 ? "a control" : std::to_string(ids.size()) + " controls");
}

// The ids of all controls of a page.
std::set<std::string> taken(const SurfacePage& p) {
    std::set<std::string> ids;
    for (const auto& ply : p.plies)
        for (const auto& c : ply.controls)
            ids.insert(c.id);
    return ids;
}

// Each of the controls, for changing; `f` may refuse.
std::optional<Error> each(SurfacePage& p, const Ids& ids, const std::function<std::optional<Error>(Control&)>& f) {
    std::size_t found = 0;
    for (std::size_t i = 0; i < p.plies.size(); ++i)
        for (std::size_t k = 0; k < p.plies[i].controls.size(); ++k)
            if (has(ids, p.plies[i].controls[k].id)) {
                ++found;
                if (auto wrong = f(p.plies.change(i).controls.change(k)))
                    return wrong;
            }
    if (found < ids.size())
        return Error{"there is no such control", ids.empty() ? "" : ids.front(), ""};
    return {};
}

bool stays(const SurfacePage& p, const std::string& id) {
    for (const auto& ply : p.plies)
        for (const auto& c : ply.controls)
            if (c.id == id)
                return ply.locked || c.locked;
    return false;
}

Error unfit(const ControlKind& kind, const Drive& drive) {
    return {kind.label + " does not fit " + detailOf(drive), drive.label, "Show it as another kind."};
}

} // namespace

Result<std::string> addControl(const Project& p, SurfacePage& page, const NewControl& n) {
    const auto* kind = findControlKind(n.kind);
    if (!kind)
        return Error{"there is no such kind of control", n.kind, "loomctl controls lists them."};
    Control c;
    c.kind = kind->id;
    c.param = n.param;
    c.text = n.text.substr(0, 500);
    std::string called = kind->label;
    if (!n.param.empty()) {
        const auto drive = controlDrive(p, n.param);
        if (!drive)
            return Error{"there is no such parameter", n.param, "loomctl drives lists what there is."};
        if (!kind->fits(*drive))
            return unfit(*kind, *drive);
        called = drive->label;
        c.confirm = kind->touch != Touch::none && harmOf(p, *drive);
    }
    if (page.plies.empty())
        page.plies.push_back({"controls", "Controls"});
    std::size_t at = page.plies.size();
    // Rather one that is open from the start: on a closed drawer nobody would see it.
    for (const bool closedToo : {true, false})
        for (std::size_t i = 0; i < page.plies.size(); ++i)
            if (const auto& ply = page.plies[i];
                n.ply.empty() ? !ply.locked && !ply.hiddenHere && (closedToo || (!ply.closed && ply.edge.empty()))
                              : ply.id == n.ply)
                at = i;
    if (at == page.plies.size())
        return n.ply.empty() ? Error{"every ply is locked or hidden", page.name, "Unlock one, or make a new one."}
                             : Error{"there is no such ply", n.ply, ""};
    auto ids = taken(page);
    c.id = freeId(ids, called);
    c.x = n.x, c.y = n.y;
    c.width = n.width > 0 ? n.width : kind->width;
    c.height = n.height > 0 ? n.height : kind->height;
    c.low = n.low, c.high = n.high, c.digits = n.digits, c.align = n.align;
    page.plies.change(at).controls.push_back(c);
    return c.id;
}

Edit addControls(const PagePlace& place, std::vector<NewControl> controls, std::string text) {
    if (text.empty())
        text = controls.size() == 1 ? "New control" : std::to_string(controls.size()) + " new controls";
    Edit e;
    e.text = text;
    e.make = [place, controls = std::move(controls)](Project p) -> Result<Project> {
        const Project before = p;
        auto* s = p.surface(place.surface);
        for (std::size_t i = 0; s && i < s->pages.size(); ++i)
            if (s->pages[i].id == place.page) {
                for (const auto& n : controls)
                    if (auto made = addControl(before, s->pages.change(i), n); !made)
                        return made.error();
                return p;
            }
        return Error{"there is no such page", place.page, ""};
    };
    return e;
}

Edit removeControls(const PagePlace& place, const Ids& ids) {
    return changePage(place, several("Take out", ids), [ids](SurfacePage& p) -> std::optional<Error> {
        for (const auto& id : ids)
            if (stays(p, id))
                return Error{"is locked", id, "Unlock it or its ply first."};
        for (std::size_t i = 0; i < p.plies.size(); ++i)
            erase_if(p.plies.change(i).controls, [&](const Control& c) { return has(ids, c.id); });
        return {};
    });
}

Edit moveControls(const PagePlace& place, const Ids& ids, double dx, double dy, bool merge) {
    return changePage(
        place, several("Move", ids),
        [=](SurfacePage& p) -> std::optional<Error> {
            Ids free;
            for (const auto& id : ids)
                if (!stays(p, id))
                    free.push_back(id);
            if (free.empty())
                return Error{"is locked", ids.empty() ? "" : ids.front(), "Unlock it or its ply first."};
            return each(p, free, [&](Control& c) -> std::optional<Error> {
                c.x += dx, c.y += dy;
                return {};
            });
        },
        merge);
}

Edit resizeControl(const PagePlace& place, const std::string& id, double x, double y, double width, double height,
                   bool merge) {
    return changePage(
        place, "Size a control",
        [=](SurfacePage& p) -> std::optional<Error> {
            if (stays(p, id))
                return Error{"is locked", id, "Unlock it or its ply first."};
            return each(p, {id}, [&](Control& c) -> std::optional<Error> {
                c.x = x, c.y = y, c.width = std::max(1.0, width), c.height = std::max(1.0, height);
                return {};
            });
        },
        merge);
}

Edit copyControls(const PagePlace& place, const Ids& ids, double dx, double dy) {
    return changePage(place, several("Copy", ids), [=](SurfacePage& p) -> std::optional<Error> {
        auto known = taken(p);
        for (std::size_t i = 0; i < p.plies.size(); ++i) {
            std::vector<Control> copies;
            for (const auto& c : p.plies[i].controls)
                if (has(ids, c.id)) {
                    copies.push_back(c);
                    copies.back().id = freeId(known, c.id);
                    copies.back().x += dx, copies.back().y += dy;
                    copies.back().group += copies.back().group.empty() ? "" : "'";
                }
            for (auto& c : copies)
                p.plies.change(i).controls.push_back(c);
        }
        return {};
    });
}

Edit orderControls(const PagePlace& place, const Ids& ids, int by) {
    return changePage(place, by > 0 ? "Bring forward" : "Send back", [=](SurfacePage& p) -> std::optional<Error> {
        bool moved = false;
        for (std::size_t i = 0; i < p.plies.size(); ++i) {
            std::vector<Control> all(p.plies[i].controls.begin(), p.plies[i].controls.end());
            const auto n = static_cast<std::ptrdiff_t>(all.size());
            // Those nearest to where they go move first, and none passes another chosen one.
            for (std::ptrdiff_t k = by > 0 ? n - 1 : 0; k >= 0 && k<n; k += by> 0 ? -1 : 1) {
                const auto to = k + (by > 0 ? 1 : -1);
                if (!has(ids, all[static_cast<std::size_t>(k)].id) || to < 0 || to >= n ||
                    has(ids, all[static_cast<std::size_t>(to)].id))
                    continue;
                std::swap(all[static_cast<std::size_t>(k)], all[static_cast<std::size_t>(to)]);
                moved = true;
            }
            if (std::any_of(all.begin(), all.end(), [&](const auto& c) { return has(ids, c.id); }))
                p.plies.change(i).controls = List<Control>(all.begin(), all.end());
        }
        return moved ? std::nullopt
                     : std::optional(Error{by > 0 ? "is in front already" : "is at the back already",
                                           ids.empty() ? "" : ids.front(), ""});
    });
}

Edit controlsToPly(const PagePlace& place, const Ids& ids, const std::string& to) {
    return changePage(place, several("Put on another ply", ids), [=](SurfacePage& p) -> std::optional<Error> {
        std::vector<Control> moved;
        std::size_t target = p.plies.size();
        for (std::size_t i = 0; i < p.plies.size(); ++i)
            if (p.plies[i].id == to)
                target = i;
        if (target == p.plies.size())
            return Error{"there is no such ply", to, ""};
        for (std::size_t i = 0; i < p.plies.size(); ++i) {
            if (i == target)
                continue;
            for (const auto& c : p.plies[i].controls)
                if (has(ids, c.id))
                    moved.push_back(c);
            erase_if(p.plies.change(i).controls, [&](const Control& c) { return has(ids, c.id); });
        }
        for (auto& c : moved)
            p.plies.change(target).controls.push_back(c);
        return {};
    });
}

Edit groupControls(const PagePlace& place, const Ids& ids, bool together) {
    return changePage(place, together ? several("Group", ids) : several("Part", ids),
                      [=](SurfacePage& p) -> std::optional<Error> {
                          if (together && ids.size() < 2)
                              return Error{"one alone makes no group", ids.empty() ? "" : ids.front(),
                                           "Choose two controls or more."};
                          return each(p, ids, [&](Control& c) -> std::optional<Error> {
                              c.group = together ? ids.front() : "";
                              return {};
                          });
                      });
}

Result<Edit> showAs(const Project& project, const PagePlace& place, const Ids& ids, const std::string& id) {
    const auto* kind = findControlKind(id);
    if (!kind)
        return Error{"there is no such kind of control", id, "loomctl controls lists them."};
    const auto* s = project.surface(place.surface);
    const auto* page = s ? s->page(place.page) : nullptr;
    for (const auto& one : ids)
        if (const auto* c = page ? page->control(one) : nullptr; c && !c->param.empty())
            if (const auto drive = controlDrive(project, c->param); drive && !kind->fits(*drive))
                return unfit(*kind, *drive);
    return changePage(place, "Show as " + kind->label, [=](SurfacePage& p) {
        return each(p, ids, [&](Control& c) -> std::optional<Error> {
            const auto* was = findControlKind(c.kind);
            // What still has the size it began with takes that of its new kind.
            if (was && c.width == was->width && c.height == was->height)
                c.width = kind->width, c.height = kind->height;
            c.kind = kind->id;
            return {};
        });
    });
}

Result<Edit> copyAs(const Project& project, const PagePlace& place, const Ids& ids, const std::string& id) {
    auto shown = showAs(project, place, ids, id); // says whether it fits
    if (!shown)
        return shown.error();
    const auto* kind = findControlKind(id);
    const auto* s = project.surface(place.surface);
    const double wide = s ? s->width : 0, high = s ? s->height : 0;
    return changePage(place, "Copy as " + kind->label, [=](SurfacePage& p) -> std::optional<Error> {
        auto known = taken(p);
        for (std::size_t i = 0; i < p.plies.size(); ++i) {
            std::vector<Control> copies;
            for (const auto& c : p.plies[i].controls) {
                if (!has(ids, c.id))
                    continue;
                auto copy = c;
                copy.id = freeId(known, c.id);
                copy.kind = kind->id;
                copy.group.clear();
                copy.width = kind->width, copy.height = kind->height;
                if (c.x + c.width + 12 + copy.width <= wide)
                    copy.x = c.x + c.width + 12;
                else if (c.y + c.height + 12 + copy.height <= high)
                    copy.y = c.y + c.height + 12;
                else
                    copy.x = std::max(0.0, std::min(c.x + 16, wide - copy.width)),
                    copy.y = std::max(0.0, std::min(c.y + 16, high - copy.height));
                copies.push_back(copy);
            }
            for (auto& c : copies)
                p.plies.change(i).controls.push_back(c);
        }
        return {};
    });
}

Result<Edit> driveFrom(const Project& project, const PagePlace& place, const Ids& ids, const std::string& path) {
    const auto drive = controlDrive(project, path);
    if (!drive)
        return Error{"there is no such parameter", path, "loomctl drives lists what there is."};
    const bool harms = harmOf(project, *drive).has_value();
    return changePage(place, "Drive from " + drive->label, [=](SurfacePage& p) {
        return each(p, ids, [&](Control& c) -> std::optional<Error> {
            c.param = path;
            c.low.reset(), c.high.reset();
            c.confirm = c.confirm || harms;
            if (const auto* kind = findControlKind(c.kind); !kind || !kind->fits(*drive))
                c.kind = usualKind(*drive).id;
            return {};
        });
    });
}

namespace {

std::string ControlPictures::*pictureOf(const std::string& state) {
    static const std::map<std::string, std::string ControlPictures::*> all{
        {"always", &ControlPictures::always}, {"off", &ControlPictures::off},         {"on", &ControlPictures::on},
        {"mixed", &ControlPictures::mixed},   {"unknown", &ControlPictures::unknown}, {"held", &ControlPictures::held}};
    const auto it = all.find(state);
    return it == all.end() ? nullptr : it->second;
}

} // namespace

Result<Edit> setPicture(const Project& project, const PagePlace& place, const Ids& ids, const std::string& state,
                        const std::string& said, std::vector<char> bytes) {
    const auto member = pictureOf(state);
    if (!member)
        return Error{"there is no such state", state, "Use always, off, on, mixed, unknown or held."};
    if (auto wrong = errorInPicture(bytes))
        return Error{wrong->message, said, wrong->remedy};
    const Asset asset(std::move(bytes));
    const auto name = freeAssetName(project.assets, assetNameFrom(said), asset);
    auto change = changePage(place, "", [=](SurfacePage& p) {
        return each(p, ids, [&](Control& c) -> std::optional<Error> {
            c.pictures.*member = name;
            return {};
        });
    });
    return together({addAsset(name, asset), std::move(change)}, "Picture " + name);
}

Result<Edit> addPicture(const Project& project, const PagePlace& place, const std::string& said,
                        std::vector<char> bytes, double x, double y, const std::string& ply) {
    if (auto wrong = errorInPicture(bytes))
        return Error{wrong->message, said, wrong->remedy};
    const auto* s = project.surface(place.surface);
    const auto size = pictureSize(bytes);
    if (!s || !size)
        return s ? size.error() : Error{"there is no such surface", place.surface, ""};
    const double most = std::min({1.0, s->width / (1.0 * size->width), s->height / (1.0 * size->height)});
    NewControl n{"picture"};
    n.ply = ply;
    n.width = std::max(8.0, std::round(size->width * most)), n.height = std::max(8.0, std::round(size->height * most));
    n.x = std::clamp(std::round(x - n.width / 2), 0.0, s->width - n.width);
    n.y = std::clamp(std::round(y - n.height / 2), 0.0, s->height - n.height);
    const Asset asset(std::move(bytes));
    const auto name = freeAssetName(project.assets, assetNameFrom(said), asset);
    auto add = changePage(place, "", [=](SurfacePage& p) -> std::optional<Error> {
        const auto made = addControl(project, p, n);
        if (!made)
            return made.error();
        return each(p, {*made}, [&](Control& c) -> std::optional<Error> {
            c.pictures.always = name;
            return {};
        });
    });
    return together({addAsset(name, asset), std::move(add)}, "Picture " + name);
}

Edit copyLook(const PagePlace& place, const std::string& from, const Ids& to) {
    return changePage(place, several("Give a look to", to), [=](SurfacePage& p) -> std::optional<Error> {
        const auto* like = p.control(from);
        if (!like)
            return Error{"there is no such control", from, ""};
        const auto look = like->look, touched = like->touched;
        const auto align = like->align;
        return each(p, to, [&](Control& c) -> std::optional<Error> {
            c.look = look, c.touched = touched, c.align = align;
            return {};
        });
    });
}

std::vector<Field> controlFields(const Surface& surface, const SurfacePage& page, const Ids& ids) {
    std::vector<Field> all;
    bool first = true;
    for (const auto& id : ids) {
        const auto* c = page.control(id);
        if (!c)
            continue;
        auto fields = shownFields(*c);
        if (std::exchange(first, false)) {
            all = std::move(fields);
            continue;
        }
        // Those that all have; mixed where they differ.
        std::erase_if(all, [&](Field& f) {
            const auto it = std::find_if(fields.begin(), fields.end(), [&](const auto& o) { return o.id == f.id; });
            if (it == fields.end())
                return true;
            f.mixed = f.mixed || it->text != f.text || it->value != f.value;
            return false;
        });
    }
    const auto offer = [](Field& f, const auto& list) { // by the names of what there is
        f.choices = {""}, f.choiceNames = {"Nothing"};
        for (const auto& one : list)
            f.choices.push_back(one.id), f.choiceNames.push_back(one.name);
    };
    for (auto& f : all) {
        if (f.id == "page")
            offer(f, surface.pages);
        if (f.id == "ply")
            offer(f, page.plies);
        if (f.id == "icon") {
            f.choices = {""}, f.choiceNames = {"None"};
            for (const auto& icon : iconNames())
                f.choices.push_back(icon.id), f.choiceNames.push_back(icon.label);
        }
    }
    return all;
}

Edit setControlField(const PagePlace& place, const Ids& ids, const std::string& field, const std::string& value) {
    return changePage(place, several("Set", ids), [=](SurfacePage& p) {
        return each(p, ids, [&](Control& c) { return setShownField(c, field, value, "A control has no such field"); });
    });
}

} // namespace loom::project
