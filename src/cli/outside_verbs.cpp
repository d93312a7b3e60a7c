#include "cli/outside_verbs.h"
#include "cli/open.h"
#include "cli/shelf.h"
#include "cli/verb.h"
#include "disk/safe_file.h"
#include "model/describe.h"
#include "outside/outside_edit.h"
#include "rules/rule_home.h"

namespace loom::cli {
namespace outside_verbs { // of this file

using namespace project;
using nlohmann::json;

struct Call {
    std::string file, device, add, kind, described, room, address;
    std::vector<std::string> fields;
    bool asJson = false, kinds = false, remove = false;
};

const char* linkWord(OutsideKind::Link link) {
    static constexpr const char* words[]{"TCP", "UDP", "HTTP", "serial line", "OSC 1.0", "Wake-on-LAN"};
    return words[static_cast<std::size_t>(link)];
}

int listKinds(const Call& c, const Project* p) {
    json all = json::array();
    const auto put = [&](const OutsideKind& k) {
        if (c.asJson)
            all.push_back(toJson(k));
        else
            std::printf("%-20s %-12s %s\n", k.id.c_str(), linkWord(k.link), k.name.c_str());
    };
    if (p)
        for (const auto& k : p->outsideKinds)
            put(k);
    for (const auto& k : shippedOutsideKinds())
        if (!p || !p->outsideKind(k.id))
            put(k);
    return c.asJson ? say(all) : 0;
}

int list(const Call& c, const Project& p) {
    json all = json::array();
    for (const auto& d : p.outside) {
        const auto* kind = p.outsideKind(d.kind);
        const auto by = processorOf(p, d);
        if (c.asJson) {
            auto j = toJson(d);
            j["talkedToBy"] = by;
            for (const auto& s : findSignals(p, outsidePrefix + d.id + "/", 300))
                j["signals"].push_back({{"path", s.path}, {"label", s.label}, {"set", s.settable}});
            all.push_back(std::move(j));
            continue;
        }
        std::printf("%s (%s), %s at %s%s\n", d.name.c_str(), d.id.c_str(), kind ? kind->name.c_str() : d.kind.c_str(),
                    d.address.empty() ? "no address" : d.address.c_str(), by.empty() ? "" : (", by " + by).c_str());
        for (const auto& s : happenings(p))
            if (s.path.rfind(outsidePrefix + d.id + "/", 0) == 0)
                std::printf("  %-34s %s\n", s.path.c_str(), s.pulse ? "said" : s.settable ? "set and told" : "told");
    }
    return c.asJson ? say(all) : 0;
}

int outside(const Call& c) {
    if (c.file.empty())
        return c.kinds ? listKinds(c, nullptr) : fail({"no project is named", "FILE", "Name one, or say --kinds."});
    auto p = loadProject(c.file, shelf());
    if (!p)
        return fail(p.error());
    if (c.kinds)
        return listKinds(c, &*p);
    std::optional<OutsideKind> described;
    if (!c.described.empty()) {
        const auto text = readWhole(c.described, 1u << 20);
        if (!text)
            return fail(text.error());
        const auto kind = readOutsideKind(*text, c.described);
        if (!kind)
            return fail(kind.error());
        described = *kind;
    }
    if (!c.add.empty()) {
        const auto edit = described ? addOutside(*p, c.add, *described, c.room, c.address)
                                    : addOutside(*p, c.add, c.kind, c.room, c.address);
        return edit ? saveEdit(*p, *edit, c.file) : fail(edit.error());
    }
    if (!c.remove && c.fields.empty())
        return list(c, *p);
    const auto said = outsideSaid(*p, c.device);
    if (!said)
        return fail(said.error());
    const auto id = (*said)->id;
    if (c.remove) {
        const auto edit = removeOutside(*p, id);
        return edit ? saveEdit(*p, *edit, c.file) : fail(edit.error());
    }
    std::vector<Edit> edits;
    for (const auto& f : c.fields) {
        const auto equal = f.find('=');
        if (equal == std::string::npos)
            return fail({"is no FIELD=VALUE", f, "As in address=192.0.2.40."});
        edits.push_back(setOutsideField(id, f.substr(0, equal), f.substr(equal + 1)));
    }
    return saveEdit(*p, together(std::move(edits), "Change an outside device"), c.file);
}

} // namespace outside_verbs

void addOutsideVerbs(CLI::App& app, std::function<int()>& action) {
    using namespace outside_verbs;
    static Call call;
    auto* v =
        addVerb(app, action, call, "outside",
                "Outside devices (displays, projectors, blinds ...) with what they are told and asked; adds, changes "
                "or takes out one",
                "loomctl outside hall.loom --add \"Hall display\" --kind display-lines --address 192.0.2.40", outside);
    v->add_option("FILE", call.file, "Project file or folder");
    v->add_option("DEVICE", call.device, "With --set and --remove: by id or name");
    v->add_flag("--kinds", call.kinds, "The kinds there are");
    v->add_option("--add", call.add, "Adds one of this name");
    v->add_option("--kind", call.kind, "Its kind, by id");
    v->add_option("--described", call.described, "Or a file in JSON that describes its kind");
    v->add_option("--room", call.room, "The room that it is in");
    v->add_option("--address", call.address, "Where it is reached");
    v->add_option("--set", call.fields, "FIELD=VALUE: name, address, room, processor");
    v->add_flag("--remove", call.remove, "Takes it out");
    v->add_flag("--json", call.asJson, "Answer as JSON");
}

} // namespace loom::cli
