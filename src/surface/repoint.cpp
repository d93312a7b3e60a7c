#include "surface/repoint.h"
#include "rules/condition.h"
#include "rules/search_words.h"
#include <algorithm>
#include <cctype>

namespace loom::project {

namespace {

// Replaces a name where it is a whole word of ids: between "/", ".", "-", "@" and the ends.
std::string replaced(const std::string& path, const std::string& from, const std::string& to) {
    std::string out;
    for (std::size_t i = 0; i < path.size();) {
        const auto at = path.find(from, i);
        if (at == std::string::npos || from.empty())
            return out + path.substr(i);
        const auto end = at + from.size();
        const auto edge = [&](std::size_t k) { return !std::isalnum(static_cast<unsigned char>(path[k])); };
        const bool whole = (at == 0 || edge(at - 1)) && (end == path.size() || edge(end));
        out += path.substr(i, at - i) + (whole ? to : from);
        i = end;
    }
    return out;
}

// "delegate-2" as people write it: "delegate 2".
std::string spoken(std::string name) {
    std::replace(name.begin(), name.end(), '-', ' ');
    return name;
}

// The same of what people read: whole words, whatever their case is; a capital stays one. "Tern handheld" becomes
// "Plover handheld".
std::string saidAnew(const std::string& text, const std::string& from, const std::string& to) {
    const auto small = lowered(text), what = lowered(spoken(from));
    std::string out;
    for (std::size_t i = 0; i < text.size();) {
        const auto at = what.empty() ? std::string::npos : small.find(what, i);
        if (at == std::string::npos)
            return out + text.substr(i);
        const auto end = at + what.size();
        const auto edge = [&](std::size_t k) {
            const auto c = static_cast<unsigned char>(text[k]);
            return !std::isalnum(c) && c < 0x80;
        };
        out += text.substr(i, at - i);
        if ((at == 0 || edge(at - 1)) && (end == text.size() || edge(end))) {
            auto now = spoken(to);
            if (!now.empty() && text[at] >= 'A' && text[at] <= 'Z' && now[0] >= 'a' && now[0] <= 'z')
                now[0] = static_cast<char>(now[0] - 'a' + 'A');
            out += now;
        } else {
            out += text.substr(at, what.size());
        }
        i = end;
    }
    return out;
}

} // namespace

std::vector<Repoint> repointOf(const Project& p, const std::string& surface, const std::vector<std::string>& pages,
                               const std::string& from, const std::string& to) {
    std::vector<Repoint> all;
    const auto* s = p.surface(surface);
    for (const auto& page : s ? s->pages : List<SurfacePage>{})
        if (pages.empty() || std::find(pages.begin(), pages.end(), page.id) != pages.end())
            for (const auto& ply : page.plies)
                for (const auto& c : ply.controls) {
                    const auto then = replaced(c.param, from, to);
                    if (c.param.empty() || then == c.param)
                        continue;
                    const auto drive = controlDrive(p, c.param);
                    all.push_back({page.id, c.id, drive ? drive->label : c.param, c.param,
                                   controlDrive(p, then) ? then : std::string()});
                }
    return all;
}

Result<Edit> repoint(const Project& p, const std::string& surface, const std::vector<std::string>& pages,
                     const std::string& from, const std::string& to) {
    const auto list = repointOf(p, surface, pages, from, to);
    if (std::none_of(list.begin(), list.end(), [](const auto& r) { return !r.to.empty(); }))
        return Error{list.empty() ? "nothing is driven from it" : "nothing of it is there under the other name",
                     from + " \u2192 " + to, "loomctl surfaces shows what drives the controls."};
    return Edit{"Re-point " + from + " to " + to, [p, surface, list, from, to](Project now) -> Result<Project> {
                    auto* s = now.surface(surface);
                    if (!s)
                        return Error{"there is no such surface", surface, ""};
                    for (std::size_t i = 0; i < s->pages.size(); ++i) {
                        // What is written there would lie: labels of what was re-pointed, and words of those pages.
                        if (std::none_of(list.begin(), list.end(),
                                         [&](const auto& r) { return !r.to.empty() && r.page == s->pages[i].id; }))
                            continue;
                        auto& page = s->pages.change(i);
                        page.name = saidAnew(page.name, from, to).substr(0, 120);
                        page.plies.changeEach([&](Ply& ply) {
                            ply.controls.changeEach([&](Control& c) {
                                if (c.param.empty() || std::any_of(list.begin(), list.end(), [&](const auto& r) {
                                        return !r.to.empty() && r.page == page.id && r.control == c.id;
                                    }))
                                    c.text = saidAnew(c.text, from, to).substr(0, 500);
                            });
                        });
                        for (std::size_t k = 0; k < s->pages[i].plies.size(); ++k)
                            for (std::size_t m = 0; m < s->pages[i].plies[k].controls.size(); ++m)
                                for (const auto& r : list)
                                    if (!r.to.empty() && r.page == s->pages[i].id &&
                                        r.control == s->pages[i].plies[k].controls[m].id) {
                                        auto& c = s->pages.change(i).plies.change(k).controls.change(m);
                                        c.param = r.to;
                                        for (auto* text : {&c.shown, &c.enabled}) {
                                            const auto then = replaced(*text, from, to);
                                            if (const auto read = readCondition(then);
                                                read && *read && controlDrive(p, (*read)->path))
                                                *text = then;
                                        }
                                    }
                    }
                    return now;
                }};
}

} // namespace loom::project
