// Verbs of touch surfaces: what is on them, pages that make themselves, controls and what drives them.
#include "cli/surface_verbs.h"
#include "cli/open.h"
#include "cli/shelf.h"
#include "cli/verb.h"
#include "disk/safe_file.h"
#include "dsp/number.h"
#include "surface/arrange.h"
#include "surface/bundle.h"
#include "surface/icons.h"
#include "surface/make_page.h"
#include "surface/pack.h"
#include "surface/page_svg.h"
#include "surface/picture_size.h"
#include "surface/repoint.h"
#include "surface/surface_file.h"
#include <filesystem>

namespace loom::cli {
namespace surface_verbs { // of this file

using namespace project;
using nlohmann::json;

struct Call {
    std::string file, surface, page, words, name, device, room, size, from, to;
    std::string add, drive, at, kind, order, ply, picture, state = "always";
    std::string out, role;
    std::vector<std::string> controls, fields, pages, what;
    bool asJson = false, go = false, copy = false, remove = false;
};

Result<Project> load(const Call& c) {
    return loadProject(c.file, shelf());
}

// Two numbers: "1280x800", "40,120".
std::optional<std::array<double, 2>> pairIn(const std::string& text) {
    const auto middle = text.find_first_of("x,");
    if (middle == std::string::npos)
        return {};
    const auto a = wholeNumber(text.substr(0, middle)), b = wholeNumber(text.substr(middle + 1));
    return a && b ? std::optional(std::array{*a, *b}) : std::nullopt;
}

int surfaces(const Call& c) {
    const auto p = load(c);
    if (!p)
        return fail(p.error());
    json all = json::array();
    for (const auto& s : p->surfaces) {
        json pages = json::array();
        for (const auto& page : s.pages) {
            json plies = json::array();
            for (const auto& ply : page.plies) {
                json controls = json::array();
                for (const auto& one : ply.controls)
                    controls.push_back({{"id", one.id}, {"kind", one.kind}, {"param", one.param}});
                plies.push_back({{"id", ply.id}, {"name", ply.name}, {"controls", controls}});
            }
            pages.push_back({{"id", page.id}, {"name", page.name}, {"plies", plies}});
        }
        all.push_back({{"id", s.id},
                       {"name", s.name},
                       {"device", s.device},
                       {"width", s.width},
                       {"height", s.height},
                       {"pages", pages}});
    }
    if (c.asJson)
        return say(all);
    for (const auto& s : p->surfaces) {
        std::printf("%s (%s), %d \u00d7 %d%s\n", s.name.c_str(), s.id.c_str(), s.width, s.height,
                    s.device.empty() ? "" : (", for " + s.device).c_str());
        for (const auto& page : s.pages) {
            std::printf("  %s (%s)\n", page.name.c_str(), page.id.c_str());
            for (const auto& ply : page.plies)
                for (const auto& one : ply.controls)
                    std::printf("    %-20s %-8s %s\n", one.id.c_str(), one.kind.c_str(), one.param.c_str());
        }
    }
    return 0;
}

int controls(const Call& c) {
    json all = json::array();
    for (const auto& k : controlKinds())
        if (c.asJson)
            all.push_back({{"id", k.id}, {"label", k.label}, {"purpose", k.purpose}, {"role", k.role}});
        else
            std::printf("%-8s %s\n", k.id.c_str(), k.purpose.c_str());
    if (c.asJson)
        return say(all);
    std::string icons;
    for (const auto& icon : iconNames())
        icons += std::string(icons.empty() ? "" : ", ") + icon.id;
    std::printf("Icons: %s\n", icons.c_str());
    return 0;
}

int drives(const Call& c) {
    const auto p = load(c);
    if (!p)
        return fail(p.error());
    json all = json::array();
    for (const auto& d : findControlDrives(*p, c.words, 500, c.device))
        if (c.asJson)
            all.push_back({{"path", d.path}, {"label", d.label}, {"detail", detailOf(d)}, {"kind", usualKind(d).id}});
        else
            std::printf("%-44s %s, %s\n", d.path.c_str(), d.label.c_str(), detailOf(d).c_str());
    return c.asJson ? say(all) : 0;
}

int keep(Project p, const Result<Edit>& edit, const Call& c) {
    return edit ? saveEdit(p, *edit, c.file) : fail(edit.error());
}

int newSurface(const Call& c) {
    auto p = load(c);
    if (!p)
        return fail(p.error());
    std::array<double, 2> size{1280, 800};
    if (!c.size.empty()) {
        const auto typed = pairIn(c.size);
        if (!typed)
            return fail({"is no size", c.size, "Type pixels as in 1280x800."});
        size = *typed;
    }
    return keep(*p, addSurface(*p, c.name, c.device, static_cast<int>(size[0]), static_cast<int>(size[1])), c);
}

// What a verb does on a surface, with the page that was said (null: none was).
int onSurface(const Call& c, const std::function<int(Project, const Surface&, const SurfacePage*)>& what) {
    auto p = load(c);
    if (!p)
        return fail(p.error());
    const auto s = surfaceSaid(*p, c.surface);
    if (!s)
        return fail(s.error());
    const SurfacePage* page = nullptr;
    if (!c.page.empty()) {
        const auto said = pageSaid(**s, c.page);
        if (!said)
            return fail(said.error());
        page = *said;
    }
    return what(*p, **s, page);
}

int surfacePage(const Call& c) {
    return onSurface(c, [&](Project p, const Surface& s, const SurfacePage* page) {
        std::vector<Edit> sets;
        for (const auto& text : c.fields) {
            const auto equal = text.find('=');
            if (equal == std::string::npos)
                return fail({"is no field with a value", text, "Type --set roles=Technician."});
            const auto field = text.substr(0, equal), value = text.substr(equal + 1);
            if (page && !c.ply.empty())
                sets.push_back(setPlyField({s.id, page->id}, c.ply, field, value));
            else
                sets.push_back(page ? setPageField({s.id, page->id}, field, value)
                                    : setSurfaceField(s.id, field, value));
        }
        if (!sets.empty())
            return saveEdit(p, together(sets, "Set a surface"), c.file);
        if (page && !c.ply.empty())
            return saveEdit(p, c.remove ? removePly({s.id, page->id}, c.ply) : addPly({s.id, page->id}, c.ply), c.file);
        if (!page)
            return c.remove ? keep(p, removeSurface(p, s.id), c) : keep(p, addPage(p, s.id, c.name), c);
        if (c.remove)
            return keep(p, removePage(p, s.id, page->id), c);
        if (c.copy)
            return keep(p, copyPage(p, s.id, page->id), c);
        return fail({"nothing is to be done with it", page->name, "Say --set, --ply, --copy or --remove."});
    });
}

int pageFor(const Call& c) {
    if (c.surface.empty()) { // what there is
        const auto p = load(c);
        if (!p)
            return fail(p.error());
        json all = json::array();
        for (const auto& one : pageSources(*p))
            if (c.asJson)
                all.push_back({{"said", one.said}, {"title", one.title}});
            else
                std::printf("%-32s %s\n", one.said.c_str(), one.title.c_str());
        return c.asJson ? say(all) : 0;
    }
    return onSurface(c, [&](Project p, const Surface& s, const SurfacePage*) {
        const auto source = pageSource(p, c.what);
        return source ? keep(p, makePages(p, s.id, c.name.empty() ? source->title : c.name, source->strips), c)
                      : fail(source.error());
    });
}

// A page as a drawing, with the values of the design.
int surfaceShot(const Call& c) {
    return onSurface(c, [&](Project p, const Surface& s, const SurfacePage* page) {
        class Designed : public SurfaceValues {
          public:
            explicit Designed(const Project& project) : project_(project) {}
            std::optional<double> now(const Drive& d) override { return controlValue(project_, d); }
            void set(const Drive&, double) override {}

          private:
            const Project& project_;
        } values(p);
        SurfaceUse use(p, s.id, values);
        if (!c.role.empty()) {
            const auto role = std::find_if(s.roles.begin(), s.roles.end(),
                                           [&](const auto& r) { return r.id == c.role || r.name == c.role; });
            if (role == s.roles.end())
                return fail({"there is no such role", c.role, ""});
            use.be(role->id);
        }
        if (page && !use.open(page->id))
            return fail({"that page opens for some only", page->name, "Say --as ROLE."});
        const auto svg = pageSvg(use);
        if (c.out.empty())
            return std::fwrite(svg.data(), 1, svg.size(), stdout) == svg.size() ? 0 : 1;
        const auto done = writeWhole(c.out, svg, false);
        return done ? 0 : fail(done.error());
    });
}

int saveSurface(const Call& c) {
    return onSurface(c, [&](Project p, const Surface& s, const SurfacePage*) {
        const auto done = writeWhole(c.out, surfaceFileText(surfaceFileOf(p, s)), false);
        return done ? 0 : fail(done.error());
    });
}

int addSurfaceVerb(const Call& c) {
    const auto p = load(c);
    if (!p)
        return fail(p.error());
    const auto text = readWhole(c.out, largestSurfaceFile);
    if (!text)
        return fail(text.error());
    auto file = readSurfaceFile(*text, c.out);
    if (!file)
        return fail(file.error());
    if (!c.name.empty())
        file->name = c.name;
    return keep(*p, addSurfaceFile(*p, *file, c.device), c);
}

int control(const Call& c) {
    return onSurface(c, [&](Project p, const Surface& s, const SurfacePage* page) {
        const PagePlace place{s.id, page->id};
        if (isBundle(c.add)) {
            const auto at = pairIn(c.at.empty() ? "40,40" : c.at);
            return at ? keep(p, putOnPage(p, place, {c.add}, (*at)[0], (*at)[1], c.ply), c)
                      : fail({"is no place", c.at, "Type pixels as in --at 40,120."});
        }
        if (!c.add.empty()) {
            NewControl n{c.add, c.drive};
            const auto at = pairIn(c.at.empty() ? "40,40" : c.at), size = pairIn(c.size.empty() ? "0,0" : c.size);
            if (!at || !size)
                return fail({"is no place", at ? c.size : c.at, "Type pixels as in --at 40,120 --size 84x232."});
            n.x = (*at)[0], n.y = (*at)[1], n.width = (*size)[0], n.height = (*size)[1];
            n.ply = c.ply, n.text = c.name;
            return saveEdit(p, addControls(place, {n}), c.file);
        }
        if (!c.picture.empty()) {
            const auto bytes = readBytes(c.picture, largestPicture);
            if (!bytes)
                return fail(bytes.error());
            const auto name = std::filesystem::path(c.picture).filename().string();
            if (!c.controls.empty())
                return keep(p, setPicture(p, place, c.controls, c.state, name, *bytes), c);
            const auto at = pairIn(c.at.empty() ? "640,400" : c.at);
            return at ? keep(p, addPicture(p, place, name, *bytes, (*at)[0], (*at)[1], c.ply), c)
                      : fail({"is no place", c.at, "Type pixels as in --at 640,400."});
        }
        if (c.controls.empty())
            return fail({"no control is said", page->name, "loomctl surfaces lists them."});
        if (c.remove)
            return saveEdit(p, removeControls(place, c.controls), c.file);
        if (!c.kind.empty())
            return keep(p, c.copy ? copyAs(p, place, c.controls, c.kind) : showAs(p, place, c.controls, c.kind), c);
        if (!c.drive.empty())
            return keep(p, driveFrom(p, place, c.controls, c.drive), c);
        if (!c.order.empty())
            for (const auto& k : arrangeKinds())
                if (k.id == c.order)
                    return keep(p, arrange(p, place, c.controls, k.how), c);
        if (!c.fields.empty()) {
            std::vector<Edit> all;
            for (const auto& text : c.fields) {
                const auto equal = text.find('=');
                if (equal == std::string::npos)
                    return fail({"is no field with a value", text, "Type --set corner=12."});
                all.push_back(setControlField(place, c.controls, text.substr(0, equal), text.substr(equal + 1)));
            }
            return saveEdit(p, together(all, "Set controls"), c.file);
        }
        if (!c.order.empty())
            return fail(
                {"there is no such order", c.order, "Use left, top, same-gap and the like; --help lists them."});
        const auto fields = controlFields(s, *page, c.controls);
        json j;
        for (const auto& f : fields) {
            if (c.asJson)
                f.mixed ? void(j[f.id] = nullptr) : f.number() ? void(j[f.id] = f.value) : void(j[f.id] = f.text);
            else
                std::printf("%-12s %s\n", f.id.c_str(),
                            f.mixed      ? "\u2014"
                            : f.number() ? plainText(f.value).c_str()
                                         : f.text.c_str());
        }
        return c.asJson ? say(j) : 0;
    });
}

int repointVerb(const Call& c) {
    return onSurface(c, [&](Project p, const Surface& s, const SurfacePage* page) {
        const std::vector<std::string> pages = page ? std::vector{page->id} : std::vector<std::string>{};
        if (c.go)
            return keep(p, repoint(p, s.id, pages, c.from, c.to), c);
        json all = json::array();
        for (const auto& r : repointOf(p, s.id, pages, c.from, c.to))
            if (c.asJson)
                all.push_back({{"page", r.page}, {"control", r.control}, {"from", r.from}, {"to", r.to}});
            else
                std::printf("%-20s %s \u2192 %s\n", r.control.c_str(), r.from.c_str(),
                            r.to.empty() ? "not there, stays" : r.to.c_str());
        return c.asJson ? say(all) : 0;
    });
}

} // namespace surface_verbs

void addSurfaceVerbs(CLI::App& app, std::function<int()>& action) {
    using namespace surface_verbs;
    static Call call;
    const auto verb = [&](const char* name, const char* does, const char* example, int (*go)(const Call&),
                          bool file = true) {
        auto* v = addVerb(app, action, call, name, does, example, go);
        if (file)
            v->add_option("FILE", call.file, "Project file or folder")->required();
        v->add_flag("--json", call.asJson, "Answer as JSON");
        return v;
    };
    verb("surfaces", "Touch surfaces with their pages and controls", "loomctl surfaces hall.loom", surfaces);
    verb("controls", "Kinds of controls for touch surfaces", "loomctl controls", controls, false);
    auto* v = verb("drives", "What controls can be driven from", "loomctl drives hall.loom \"chair gain\"", drives);
    v->add_option("WORDS", call.words, "Only what has all these words");
    v->add_option("--device", call.device, "Only of this processor");
    v = verb("new-surface", "A touch surface with an empty page", "loomctl new-surface hall.loom --device tern-slate",
             newSurface);
    v->add_option("--name", call.name, "Its name");
    v->add_option("--device", call.device, "The touch surface of the plan that it is for");
    v->add_option("--size", call.size, "Its size in pixels, where there is no device: 1280x800");
    v = verb("surface-page", "A new page; or a copy of one, or one taken out; without PAGE and with --remove all of it",
             "loomctl surface-page hall.loom tern-slate --name Sound", surfacePage);
    v->add_option("SURFACE", call.surface, "By id or name")->required();
    v->add_option("PAGE", call.page, "A page, to copy or take out");
    v->add_option("--name", call.name, "Of the new page");
    v->add_flag("--copy", call.copy, "A copy behind it");
    v->add_option("--ply", call.ply, "A new ply of the page; with --set or --remove one that is there");
    v->add_option("--set", call.fields, "FIELD=VALUE of the surface, its page or ply; several times for several");
    v->add_flag("--remove", call.remove, "Takes it out");
    v = verb("page-for", "Laid-out pages by themselves; without a surface lists what they can be made for",
             "loomctl page-for hall.loom tern-slate tern", pageFor);
    auto* onto = v->add_option("SURFACE", call.surface, "By id or name");
    v->add_option("WHAT", call.what,
                  "Rooms (\"tern\", \"tern+plover\"), processors, \"model:ID\", groups and lanes (\"heddle/auto\"), "
                  "parameters; several side by side")
        ->needs(onto);
    v->add_option("--name", call.name, "Title of the page");
    v = verb("surface-shot", "A page as a drawing (SVG), with the values of the design",
             "loomctl surface-shot hall.loom tern-slate Meeting --to meeting.svg", surfaceShot);
    v->add_option("SURFACE", call.surface, "By id or name")->required();
    v->add_option("PAGE", call.page, "By id or name; without it the one that it begins with");
    v->add_option("--as", call.role, "Of a role that may open it");
    v->add_option("--to", call.out, "The file; without it to the standard output");
    v = verb("save-surface", "A surface as a file of its own, for other projects",
             "loomctl save-surface hall.loom tern-slate tern.surface.json", saveSurface);
    v->add_option("SURFACE", call.surface, "By id or name")->required();
    v->add_option("OUT", call.out, "The file")->required();
    v = verb("add-surface", "A surface of a file, with its scenes and pictures",
             "loomctl add-surface hall.loom tern.surface.json --device plover-slate", addSurfaceVerb);
    v->add_option("IN", call.out, "The file")->required();
    v->add_option("--device", call.device, "The touch surface of the plan that it is for");
    v->add_option("--name", call.name, "Its name");
    v = verb("control", "Controls of a page: adds one, sets fields, shows them as another kind, puts them in order",
             "loomctl control hall.loom tern-slate page-1 --add fader --drive heddle/chair.level.gain --at 40,120",
             control);
    v->add_option("SURFACE", call.surface, "By id or name")->required();
    v->add_option("PAGE", call.page, "By id or name")->required();
    v->add_option("CONTROL", call.controls, "Ids; the first leads where they are put in order");
    v->add_option("--add", call.add,
                  "A new one of this kind; or several at once: strip:PROCESSOR/LANE, group:PROCESSOR/GROUP, "
                  "bead:PROCESSOR/BLOCK");
    v->add_option("--drive", call.drive, "What it is driven from");
    v->add_option("--at", call.at, "Where its left upper corner is: 40,120");
    v->add_option("--size", call.size, "84x232");
    v->add_option("--set", call.fields, "FIELD=VALUE; several times for several");
    v->add_option("--as", call.kind, "Shows them as another kind");
    v->add_flag("--copy", call.copy, "With --as: copies of them, of that kind");
    v->add_option("--order", call.order,
                  "left, right, top, bottom, centre-across, centre-down, same-width, same-height, same-size, "
                  "gap-across, gap-down, stack-across, stack-down");
    v->add_option("--ply", call.ply, "Of a new one: the ply it lies on");
    v->add_option("--text", call.name, "Of a new one: its text");
    v->add_option("--picture", call.picture, "A PNG, JPEG or SVG: onto these controls, or as one of its own");
    v->add_option("--while", call.state, "When the picture is shown: always, off, on, mixed, unknown, held");
    v->add_flag("--remove", call.remove, "Takes them out");
    v = verb("re-point", "Takes controls from one room, device or lane to another; only lists without --do",
             "loomctl re-point hall.loom tern-slate tern plover --do", repointVerb);
    v->add_option("SURFACE", call.surface, "By id or name")->required();
    v->add_option("FROM", call.from, "A word of the paths as they are")->required();
    v->add_option("TO", call.to, "What stands there then")->required();
    v->add_option("--page", call.page, "Only this page");
    v->add_flag("--do", call.go, "Does it, as one step");
}

} // namespace loom::cli
