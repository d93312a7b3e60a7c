#include "cli/access_verb.h"
#include "access/access_edit.h"
#include "cli/open.h"
#include "cli/shelf.h"
#include "cli/verb.h"
#include "model/describe.h"

namespace loom::cli {
namespace access_verb { // of this file

using namespace project;
using nlohmann::json;

struct Call {
    std::string file, device, forbid, change;
    std::vector<std::string> allow, fields;
    bool asJson = false, sets = false;
};

void list(const Project& p, const Access& a) {
    const auto* d = p.device(a.id);
    std::printf("%s (%s)\n", d ? d->name.c_str() : a.id.c_str(), a.id.c_str());
    for (const auto& way : accessWays(a))
        std::printf("  %s\n", way.c_str());
    if (!a.any())
        std::printf("  no way is open\n");
    for (const auto& to : a.oscTo)
        std::printf("  OSC tells changes to %s\n", to.c_str());
    for (const auto& one : a.allowed)
        std::printf("  %-28s %-6s %s%s\n", one.name.c_str(), one.sets ? "set" : "known", one.signal.c_str(),
                    one.role.empty() ? "" : (", with the PIN of " + one.role).c_str());
    for (const auto& e : accessErrors(p, a))
        std::printf("  ! %s\n", e.text().c_str());
}

int access(const Call& c) {
    auto p = loadProject(c.file, shelf());
    if (!p)
        return fail(p.error());
    if (c.device.empty() && c.allow.empty() && c.forbid.empty() && c.fields.empty()) {
        json all = json::array();
        for (const auto& a : p->access)
            if (c.asJson)
                all.push_back(toJson(a));
            else
                list(*p, a);
        return c.asJson ? say(all) : 0;
    }
    const Device* device = nullptr;
    for (const auto* d : accessDevices(*p))
        if (d->id == c.device || d->name == c.device)
            device = d;
    if (!device)
        return fail({"there is no processor of that name that could be asked from outside", c.device,
                     "loomctl show FILE lists devices."});
    const auto id = device->id;
    std::vector<Edit> edits;
    auto now = *p;
    // Each on the project as it is after those before it, so that names stay free.
    const auto add = [&](const Result<Edit>& e) -> std::optional<Error> {
        if (!e)
            return e.error();
        auto then = e->make(now);
        if (!then)
            return then.error();
        now = std::move(*then);
        edits.push_back(*e);
        return {};
    };
    for (const auto& said : c.allow) {
        const auto path = signalSaid(*p, said);
        if (!path)
            return fail(path.error());
        if (const auto e = add(allowSignal(now, id, *path, c.sets)))
            return fail(*e);
    }
    if (!c.forbid.empty())
        if (const auto e = add(forbidSignal(now, id, c.forbid)))
            return fail(*e);
    auto change = c.change;
    for (const auto& f : c.fields) {
        const auto equal = f.find('=');
        if (equal == std::string::npos)
            return fail({"is no FIELD=VALUE", f, "As in osc=yes."});
        const auto field = f.substr(0, equal), value = f.substr(equal + 1);
        if (const auto e = add(change.empty() ? Result<Edit>(setAccessField(id, field, value))
                                              : Result<Edit>(setAllowedField(id, change, field, value))))
            return fail(*e);
        if (field == "name" && !change.empty())
            change = value;
    }
    if (edits.empty()) {
        const auto* a = p->accessOf(id);
        if (c.asJson)
            return say(a ? toJson(*a) : json::object());
        if (a)
            list(*p, *a);
        else
            std::printf("%s allows nothing from outside.\n", device->name.c_str());
        return 0;
    }
    return saveEdit(*p, together(std::move(edits), "Change control from outside"), c.file);
}

} // namespace access_verb

void addAccessVerb(CLI::App& app, std::function<int()>& action) {
    using namespace access_verb;
    static Call call;
    auto* v = addVerb(app, action, call, "access",
                      "Control from outside: what programs and controllers of others may know and set of a processor, "
                      "and by which ways; nothing is open by itself",
                      "loomctl access hall.loom loomer --allow loomer/hall.level.gain --sets --set osc=yes", access);
    v->add_option("FILE", call.file, "Project file or folder")->required();
    v->add_option("DEVICE", call.device, "A processor, by id or name");
    v->add_option("--allow", call.allow, "Allows a parameter or another signal, by path or name");
    v->add_flag("--sets", call.sets, "With --allow: it may be set, too");
    v->add_option("--forbid", call.forbid, "Allows what has this name no more");
    v->add_option("--change", call.change, "With --set: of what has this name");
    v->add_option(
        "--set", call.fields,
        "FIELD=VALUE: osc, oscPort, oscTo, web, lines, linesPort; with --change: name, sets, role, low, high");
    v->add_flag("--json", call.asJson, "Answer as JSON");
}

} // namespace loom::cli
