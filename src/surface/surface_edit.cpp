// Edits of surfaces, their pages and plies.
#include "surface/surface_edit.h"
#include "dsp/number.h"
#include "engine/program.h"
#include "model/describe.h"
#include "rooms/room_edit.h"
#include "rules/search_words.h"
#include <algorithm>
#include <set>

namespace loom::project {

namespace {

// "Technician, Staff".
std::vector<std::string> namesIn(const std::string& text) {
    std::vector<std::string> all;
    for (std::size_t at = 0; at <= text.size();) {
        const auto end = std::min(text.find(',', at), text.size());
        auto one = text.substr(at, end - at);
        one.erase(0, std::min(one.find_first_not_of(' '), one.size()));
        one.erase(one.find_last_not_of(' ') + 1);
        if (!one.empty())
            all.push_back(one);
        at = end + 1;
    }
    return all;
}

template <class List> std::set<std::string> idsIn(const List& list) {
    std::set<std::string> ids;
    for (const auto& one : list)
        ids.insert(one.id);
    return ids;
}

Error noSurface(const std::string& id) {
    return {"there is no such surface", id, "loomctl surfaces lists them."};
}

// Changes a surface; what is told by `change` refuses it.
Edit changeSurface(const std::string& id, std::string text, std::function<std::optional<Error>(Surface&)> change) {
    return {std::move(text), [id, change = std::move(change)](Project p) -> Result<Project> {
                auto* s = p.surface(id);
                if (!s)
                    return noSurface(id);
                if (auto wrong = change(*s))
                    return *wrong;
                return p;
            }};
}

template <class List> std::size_t placeIn(const List& list, const std::string& id) {
    std::size_t i = 0;
    while (i < list.size() && list[i].id != id)
        ++i;
    return i;
}

template <class List> bool moveIn(List& list, std::size_t i, int by) {
    const auto to = static_cast<std::ptrdiff_t>(i) + by;
    if (i >= list.size() || to < 0 || to >= static_cast<std::ptrdiff_t>(list.size()))
        return false;
    const auto one = list[i];
    list.erase(list.begin() + static_cast<std::ptrdiff_t>(i));
    list.insert(list.begin() + to, one);
    return true;
}

} // namespace

Result<Edit> addSurface(const Project& p, const std::string& said, const std::string& device, int width, int height) {
    Surface s;
    s.name = said.substr(0, 120);
    s.width = width, s.height = height;
    if (!device.empty()) {
        const auto* d = p.device(device);
        const auto* m = d ? d->spec() : nullptr;
        if (!m || m->screenWidth <= 0)
            return Error{"is no touch surface", device, "Place one from the shelf, or type the size of its screen."};
        for (const auto& other : p.surfaces)
            if (other.device == device)
                return Error{"has a surface already", d->name, "Open " + other.name + ", or take it out first."};
        s.device = device;
        s.width = m->screenWidth, s.height = m->screenHeight, s.millimetres = m->screenMm;
        if (s.name.empty())
            s.name = d->name;
    }
    if (s.name.empty())
        s.name = "Surface " + std::to_string(p.surfaces.size() + 1);
    if (s.width < 64 || s.height < 64 || s.width > 8192 || s.height > 8192)
        return Error{"is no size of a screen", std::to_string(s.width) + " \u00d7 " + std::to_string(s.height),
                     "Use 64 to 8192 pixels."};
    auto taken = idsIn(p.surfaces);
    s.id = freeId(taken, s.name);
    SurfacePage page;
    page.id = "page-1", page.name = "Page 1";
    page.plies.push_back({"controls", "Controls"});
    s.pages.push_back(page);
    return Edit{"New surface " + s.name, [s](Project now) -> Result<Project> {
                    now.surfaces.push_back(s);
                    return now;
                }};
}

std::vector<const Device*> freeScreens(const Project& p) {
    std::vector<const Device*> all;
    for (const auto& d : p.devices)
        if (const auto* m = d.spec();
            m && m->screenWidth > 0 &&
            std::none_of(p.surfaces.begin(), p.surfaces.end(), [&](const auto& s) { return s.device == d.id; }))
            all.push_back(&d);
    return all;
}

Result<Edit> removeSurface(const Project& p, const std::string& id) {
    const auto* s = p.surface(id);
    if (!s)
        return noSurface(id);
    return Edit{"Take out " + s->name, [id](Project now) -> Result<Project> {
                    erase_if(now.surfaces, [&](const Surface& one) { return one.id == id; });
                    return now;
                }};
}

Result<const Surface*> surfaceSaid(const Project& p, const std::string& said) {
    for (const auto& s : p.surfaces)
        if (s.id == said || s.name == said)
            return &s;
    return noSurface(said);
}

Result<const SurfacePage*> pageSaid(const Surface& s, const std::string& said) {
    for (const auto& page : s.pages)
        if (page.id == said || page.name == said)
            return &page;
    return Error{"there is no such page on " + s.name, said, "loomctl surfaces lists them."};
}

Result<Edit> addPage(const Project& p, const std::string& surface, const std::string& name) {
    const auto* s = p.surface(surface);
    if (!s)
        return noSurface(surface);
    auto taken = idsIn(s->pages);
    SurfacePage page;
    page.name = name.empty() ? "Page " + std::to_string(s->pages.size() + 1) : name.substr(0, 120);
    page.id = freeId(taken, page.name);
    page.plies.push_back({"controls", "Controls"});
    return changeSurface(surface, "New page " + page.name, [page](Surface& one) -> std::optional<Error> {
        one.pages.push_back(page);
        return {};
    });
}

Result<Edit> copyPage(const Project& p, const std::string& surface, const std::string& id) {
    const auto* s = p.surface(surface);
    const auto* page = s ? s->page(id) : nullptr;
    if (!page)
        return s ? Error{"there is no such page", id, ""} : noSurface(surface);
    auto taken = idsIn(s->pages);
    SurfacePage copy = *page;
    copy.name = page->name + " copy";
    copy.id = freeId(taken, copy.name);
    const auto at = placeIn(s->pages, id) + 1;
    return changeSurface(surface, "Copy page " + page->name, [copy, at](Surface& one) -> std::optional<Error> {
        one.pages.insert(one.pages.begin() + static_cast<std::ptrdiff_t>(std::min(at, one.pages.size())), copy);
        return {};
    });
}

Result<Edit> removePage(const Project& p, const std::string& surface, const std::string& id) {
    const auto* s = p.surface(surface);
    const auto* page = s ? s->page(id) : nullptr;
    if (!page)
        return s ? Error{"there is no such page", id, ""} : noSurface(surface);
    if (s->pages.size() == 1)
        return Error{"a surface has one page at least", page->name, "Take out the surface instead."};
    return changeSurface(surface, "Take out page " + page->name, [id](Surface& one) -> std::optional<Error> {
        erase_if(one.pages, [&](const SurfacePage& each) { return each.id == id; });
        if (one.start == id)
            one.start.clear();
        return {};
    });
}

Result<Edit> movePage(const Project& p, const std::string& surface, const std::string& id, int by) {
    const auto* s = p.surface(surface);
    const auto* page = s ? s->page(id) : nullptr;
    if (!page)
        return s ? Error{"there is no such page", id, ""} : noSurface(surface);
    auto pages = s->pages;
    if (!moveIn(pages, placeIn(pages, id), by))
        return Error{"it is at the end already", page->name, ""};
    return changeSurface(surface, "Move page " + page->name, [pages](Surface& one) -> std::optional<Error> {
        one.pages = pages;
        return {};
    });
}

Edit changePage(const PagePlace& place, std::string text, std::function<std::optional<Error>(SurfacePage&)> change,
                bool merge) {
    Edit e =
        changeSurface(place.surface, text, [place, change = std::move(change)](Surface& s) -> std::optional<Error> {
            const auto i = placeIn(s.pages, place.page);
            return i < s.pages.size() ? change(s.pages.change(i)) : Error{"there is no such page", place.page, ""};
        });
    e.sets = "surface " + place.surface + "/" + place.page + " " + text;
    e.merge = merge;
    return e;
}

Edit addPly(const PagePlace& place, const std::string& name) {
    return changePage(place, "New ply", [name](SurfacePage& p) -> std::optional<Error> {
        auto taken = idsIn(p.plies);
        Ply ply;
        ply.name = name.empty() ? "Ply " + std::to_string(p.plies.size() + 1) : name.substr(0, 120);
        ply.id = freeId(taken, ply.name);
        p.plies.push_back(ply);
        return {};
    });
}

Edit removePly(const PagePlace& place, const std::string& id) {
    return changePage(place, "Take out ply", [id](SurfacePage& p) -> std::optional<Error> {
        if (p.plies.size() <= 1)
            return Error{"a page has one ply at least", p.name, "Take out what is on it instead."};
        erase_if(p.plies, [&](const Ply& one) { return one.id == id; });
        return {};
    });
}

Edit movePly(const PagePlace& place, const std::string& id, int by) {
    return changePage(place, "Move ply", [id, by](SurfacePage& p) -> std::optional<Error> {
        if (!moveIn(p.plies, placeIn(p.plies, id), by))
            return Error{"it is at the end already", id, ""};
        return {};
    });
}

std::vector<Field> plyFields(const SurfacePage& page, const std::string& id) {
    for (const auto& ply : page.plies)
        if (ply.id == id)
            return shownFields(ply);
    return {};
}

Edit setPlyField(const PagePlace& place, const std::string& id, const std::string& field, const std::string& value) {
    return changePage(place, "Set a ply", [=](SurfacePage& p) -> std::optional<Error> {
        const auto i = placeIn(p.plies, id);
        if (i == p.plies.size())
            return Error{"there is no such ply", id, ""};
        return setShownField(p.plies.change(i), field, value, "A ply has no such field");
    });
}

std::vector<Field> pageFields(const Surface& s, const SurfacePage& page) {
    auto all = shownFields(page);
    Field f{"roles", "Opens for"};
    f.letters = 1000;
    for (const auto& id : page.roles)
        for (const auto& r : s.roles)
            if (r.id == id)
                f.text += (f.text.empty() ? "" : ", ") + r.name;
    if (!s.roles.empty())
        all.insert(all.begin() + 1, f);
    return all;
}

Edit setPageField(const PagePlace& place, const std::string& field, const std::string& value) {
    if (field == "roles")
        return changeSurface(place.surface, "Who may open a page", [=](Surface& s) -> std::optional<Error> {
            const auto i = placeIn(s.pages, place.page);
            if (i == s.pages.size())
                return Error{"there is no such page", place.page, ""};
            std::vector<std::string> ids;
            for (const auto& name : namesIn(value)) {
                const auto it = std::find_if(s.roles.begin(), s.roles.end(), [&](const auto& r) {
                    return lowered(r.name) == lowered(name) || r.id == name;
                });
                if (it == s.roles.end())
                    return Error{"there is no such role", name, "Name it under Roles of the surface first."};
                ids.push_back(it->id);
            }
            s.pages.change(i).roles = ids;
            return {};
        });
    return changePage(place, "Set a page",
                      [=](SurfacePage& p) { return setShownField(p, field, value, "A page has no such field"); });
}

std::vector<Field> surfaceFields(const Surface& s) {
    auto all = shownFields(s);
    for (auto& f : all)
        if (f.id == "start") { // by the names of its pages
            f.choices = {""}, f.choiceNames = {"The first"};
            for (const auto& p : s.pages)
                f.choices.push_back(p.id), f.choiceNames.push_back(p.name);
        }
    Field f{"roles", "Roles"};
    f.letters = 2000;
    for (const auto& r : s.roles)
        f.text += (f.text.empty() ? "" : ", ") + r.name;
    all.push_back(f);
    return all;
}

Edit setRoles(const std::string& surface, const std::vector<std::string>& names) {
    return changeSurface(surface, "Roles", [names](Surface& s) -> std::optional<Error> {
        std::vector<SurfaceRole> roles;
        std::set<std::string> taken;
        for (const auto& name : names) {
            const auto was = std::find_if(s.roles.begin(), s.roles.end(),
                                          [&](const auto& r) { return lowered(r.name) == lowered(name); });
            if (std::any_of(roles.begin(), roles.end(),
                            [&](const auto& r) { return lowered(r.name) == lowered(name); }))
                continue;
            SurfaceRole r = was == s.roles.end() ? SurfaceRole{} : *was;
            r.name = name.substr(0, 120);
            if (r.id.empty()) {
                for (const auto& one : s.roles)
                    taken.insert(one.id);
                r.id = freeId(taken, r.name);
            }
            taken.insert(r.id);
            roles.push_back(r);
        }
        if (roles.size() > 50)
            return Error{"a surface has 50 roles at most", "Roles", ""};
        s.roles = roles;
        for (std::size_t i = 0; i < s.pages.size(); ++i) {
            const auto gone = [&](const std::string& id) {
                return std::none_of(roles.begin(), roles.end(), [&](const auto& r) { return r.id == id; });
            };
            const auto& has = s.pages[i].roles;
            // A page that was for some only does not become one for everybody by that.
            if (!has.empty() && std::all_of(has.begin(), has.end(), gone))
                return Error{"the page " + s.pages[i].name + " would open for everybody", "Roles",
                             "Say first who may open it."};
            if (std::any_of(has.begin(), has.end(), gone))
                std::erase_if(s.pages.change(i).roles, gone);
        }
        return {};
    });
}

Edit setSurfaceField(const std::string& surface, const std::string& field, const std::string& value) {
    if (field == "roles")
        return setRoles(surface, namesIn(value));
    return changeSurface(surface, "Set a surface", [=](Surface& s) -> std::optional<Error> {
        if (field == "start" && !value.empty() && !s.page(value))
            return Error{"there is no such page", value, ""};
        return setShownField(s, field, value, "A surface has no such field");
    });
}

} // namespace loom::project
