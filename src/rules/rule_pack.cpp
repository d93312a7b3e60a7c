#include "rules/rule_pack.h"
#include "file/project_json.h"
#include "rules/named_part.h"
#include "rules/rule_home.h"
#include "rules/script.h"
#include "rules/surface_paths.h"
#include <algorithm>
#include <cmath>
#include <unordered_map>

namespace loom::project {
namespace {

using nlohmann::json;

constexpr std::size_t mostPaths = 20000, mostMoments = 5000;

// What every rule and scene of a project needs, worked out once for all devices.
struct RulePlan {
    struct Part { // of one processor
        RuleShare share{};
        std::set<std::string> paths{};                                  // signals its rules know
        std::set<std::string> set{};                                    // and set
        std::set<std::string> gives{};                                  // moments that it gives
        std::set<std::string> waits{};                                  // and waits for
        std::set<std::string> surfaces{}, scripts{}, scenes{}, stubs{}; // that its rules name; rules of others
    };
    std::map<std::string, Part> parts{};
    std::map<std::string, std::string> tellers{};          // by signal
    std::map<std::string, std::set<std::string>> takers{}; // of moments
    std::map<std::string, std::string> leaders{};          // of scenes
};

void name(const Project& p, Homes& homes, RulePlan::Part& part, const std::string& path, bool sets) {
    const auto& s = homes.signal(path);
    if (!s)
        return;
    if (const auto id = behind(path, scenePrefix); id && sets) {
        part.scenes.insert(*id);
        if (const auto* scene = p.scene(*id))
            for (const auto& [one, _] : scene->values)
                name(p, homes, part, one, true);
    }
    if (s->pulse && path.rfind(outsidePrefix, 0) != 0) {
        (sets ? part.gives : part.waits).insert(path);
        return;
    }
    part.paths.insert(path);
    if (sets && s->settable)
        part.set.insert(path);
}

void addRule(const Project& p, Homes& homes, RulePlan::Part& part, const Rule& rule) {
    part.share.rules.push_back(rule.id);
    for (const auto* list : {&rule.when, &rule.only, &rule.then, &rule.otherwise}) {
        const bool acts = list == &rule.then || list == &rule.otherwise;
        for (const auto& c : *list)
            for (const auto& [slot, text] : c.gaps) {
                if (text.empty())
                    continue;
                if (slot == "signal" || slot == "line" || slot == "cue")
                    name(p, homes, part, text, acts);
                else if (slot == "player")
                    for (const char* param : {".play", ".item", ".level"})
                        name(p, homes, part, text + param, true);
                else if (slot == "scene") {
                    part.scenes.insert(text);
                    if (acts) // it recalls it by itself, and says so
                        name(p, homes, part, scenePrefix + text, true);
                    else
                        part.waits.insert(scenePrefix + text);
                } else if (slot == "surface")
                    part.surfaces.insert(text);
                else if (slot == "rule")
                    part.stubs.insert(text);
                else if (slot == "script") {
                    part.scripts.insert(text);
                    if (const auto* s = p.script(text))
                        for (const auto& path : quotedIn(s->text)) {
                            name(p, homes, part, path, true); // it may do either
                            name(p, homes, part, path, false);
                        }
                }
            }
    }
}

RulePlan planOf(const Project& p) {
    RulePlan plan;
    Homes homes(p);
    std::map<std::string, std::string> homeOfRule;
    for (const auto& r : p.rules)
        homeOfRule[r.id] = homes.of(r).device;
    for (const auto& r : p.rules)
        if (const auto& home = homeOfRule[r.id]; !home.empty())
            addRule(p, homes, plan.parts[home], r);
    // A scene that others recall is led by its home.
    for (const auto& s : p.scenes) {
        const auto home = homes.of(s).device;
        if (home.empty())
            continue;
        auto& part = plan.parts[home];
        if (s.atStart)
            part.share.scenes.push_back(s.id);
        part.scenes.insert(s.id);
        for (const auto& [path, _] : s.values)
            name(p, homes, part, path, true);
        plan.takers[scenePrefix + s.id].insert(home);
        plan.leaders[scenePrefix + s.id] = home;
    }
    for (auto& [device, part] : plan.parts) {
        for (const auto& moment : part.waits)
            plan.takers[moment].insert(device);
        for (const auto& rule : part.share.rules)
            plan.takers[rulePrefix + rule].insert(device);
        std::erase_if(part.stubs, [&, id = device](const auto& rule) { return homeOfRule[rule] == id; });
    }
    for (const auto& [_, part] : plan.parts)
        for (const auto& path : part.paths)
            if (homes.signal(path))
                plan.tellers.try_emplace(path, homes.teller(path));
    return plan;
}

const RulePlan& lastPlan(const Project& p) {
    // What it is worked out from, shared with the project as it was then.
    thread_local Project of;
    thread_local RulePlan plan;
    thread_local bool any = false;
    if (any && p.devices.is(of.devices) && p.rules.is(of.rules) && p.scripts.is(of.scripts) && p.scenes.is(of.scenes) &&
        p.surfaces.is(of.surfaces) && p.buildings.is(of.buildings) && p.outside.is(of.outside) &&
        p.outsideKinds.is(of.outsideKinds) && p.place == of.place)
        return plan;
    of = Project{};
    of.devices = p.devices, of.rules = p.rules, of.scripts = p.scripts, of.scenes = p.scenes, of.surfaces = p.surfaces;
    of.buildings = p.buildings, of.outside = p.outside, of.outsideKinds = p.outsideKinds, of.place = p.place;
    plan = planOf(of);
    any = true;
    return plan;
}

json listsOf(const std::map<std::string, std::set<std::string>>& all) {
    json j = json::object();
    for (const auto& [key, list] : all)
        j[key] = list;
    return j;
}

// Values of scenes beside them, each by the number of its path: hundreds of scenes name the same hundreds of paths.
json valuesBeside(Project& p) {
    json paths = json::array(), values = json::object();
    std::unordered_map<std::string, std::size_t> numbers;
    for (std::size_t i = 0; i < p.scenes.size(); ++i) {
        auto& scene = p.scenes.change(i);
        auto& list = values[scene.id] = json::array();
        for (const auto& [path, value] : scene.values) {
            const auto [it, fresh] = numbers.try_emplace(path, numbers.size());
            if (fresh)
                paths.push_back(path);
            list.push_back(it->second);
            list.push_back(value);
        }
        scene.values.clear();
    }
    return {{"paths", paths}, {"values", values}};
}

// The way back; false: it is none.
bool takeValues(Project& p, const json& all) {
    const auto paths = all.is_object() ? all.value("paths", json::array()) : json(),
               values = all.is_object() ? all.value("values", json::object()) : json();
    if (!paths.is_array() || !values.is_object())
        return false;
    for (const auto& [id, list] : values.items()) {
        auto* scene = p.scene(id);
        if (!scene || !list.is_array() || list.size() % 2 != 0)
            return false;
        for (std::size_t i = 0; i + 1 < list.size(); i += 2) {
            const auto n = list[i].is_number_unsigned() ? list[i].get<std::size_t>() : paths.size();
            if (n >= paths.size() || !paths[n].is_string() || !list[i + 1].is_number())
                return false;
            scene->values[paths[n].get<std::string>()] = list[i + 1].get<double>();
        }
    }
    return true;
}

Error notPacked(const std::string& where) {
    return {"is no set of rules that was packed", "rules/" + where, "Send it again from the design."};
}

} // namespace

std::string linkPath(const std::string& teller, const std::string& signal) {
    return signal.compare(0, teller.size() + 1, teller + "/") == 0 ? signal : teller + "/" + signal;
}

std::string signalOfLink(const std::string& teller, const std::string& path) {
    const auto rest = path.substr(std::min(path.size(), teller.size() + 1));
    static constexpr const char* prefixes[]{wallPrefix, contactPrefix, relayPrefix,  buttonPrefix, knobPrefix,
                                            mutePrefix, devicePrefix,  streamPrefix, hearsPrefix,  outsidePrefix,
                                            cuePrefix,  scenePrefix,   rulePrefix,   surfacePrefix};
    for (const char* prefix : prefixes)
        if (rest.rfind(prefix, 0) == 0)
            return rest;
    return path;
}

std::string packRules(const Project& p, const std::string& device) {
    if (p.rules.empty() && p.scenes.empty() && p.outside.empty())
        return {};
    const auto& plan = lastPlan(p);
    RulePack out;
    const auto mine = plan.parts.find(device);
    NamedPart small(p, out.project);
    out.project.name = p.name, out.project.place = p.place;

    // -- what others want of it --
    for (const auto& [other, part] : plan.parts)
        if (other != device)
            for (const auto& path : part.paths) {
                const bool self = path == devicePrefix + device; // that it is there at all
                const auto teller = plan.tellers.find(path);
                if (!self && (teller == plan.tellers.end() || teller->second != device))
                    continue;
                auto& use = out.uses[path];
                if (const auto s = signalOf(p, path); s && part.set.count(path)) {
                    use.low = use.sets ? std::min(use.low, s->spec.min) : s->spec.min;
                    use.high = use.sets ? std::max(use.high, s->spec.max) : s->spec.max;
                    use.sets = true;
                }
                small.take(path);
            }
    for (const auto& d : p.outside)
        if (processorOf(p, d) == device) {
            out.outside.push_back(d.id);
            small.outside(d.id);
        }

    // -- what it wants --
    std::set<std::string> gives;
    if (mine != plan.parts.end()) {
        const auto& part = mine->second;
        out.share = part.share;
        gives = part.gives;
        for (const auto& id : part.scenes)
            gives.insert(scenePrefix + id);
        for (const auto& path : part.paths) {
            small.take(path);
            auto teller = plan.tellers.at(path);
            if (const auto whole = behind(path, devicePrefix))
                teller = *whole;
            if (!teller.empty() && teller != device)
                out.tells[path] = teller;
        }
        for (const auto& r : p.rules) {
            const bool own =
                std::find(part.share.rules.begin(), part.share.rules.end(), r.id) != part.share.rules.end();
            if (own) {
                out.project.rules.push_back(r);
                small.rooms(r.room);
            } else if (part.stubs.count(r.id)) {
                Rule stub;
                stub.id = r.id, stub.name = r.name;
                out.project.rules.push_back(stub);
                gives.insert(rulePrefix + r.id);
            }
        }
        for (const auto& s : p.scripts)
            if (part.scripts.count(s.id))
                out.project.scripts.push_back(s);
        for (const auto& s : p.scenes)
            if (part.scenes.count(s.id)) {
                out.project.scenes.push_back(s);
                small.rooms(s.room);
            }
        for (const auto& s : p.surfaces)
            if (part.surfaces.count(s.id)) {
                Surface bare;
                bare.id = s.id, bare.name = s.name, bare.width = s.width, bare.height = s.height;
                for (const auto& page : s.pages) {
                    SurfacePage one;
                    one.id = page.id, one.name = page.name;
                    for (const auto& ply : page.plies) {
                        Ply layer;
                        layer.id = ply.id, layer.name = ply.name;
                        one.plies.push_back(layer);
                    }
                    bare.pages.push_back(one);
                }
                out.project.surfaces.push_back(bare);
                out.shows[s.id] = showersOf(p, s);
            }
    }
    // Surfaces here give cues and recall scenes whoever waits for them.
    for (const auto& s : p.surfaces)
        if (showersOf(p, s).count(device))
            eachPath(s, [&](const std::string& path) {
                if (path.rfind(cuePrefix, 0) == 0 || path.rfind(scenePrefix, 0) == 0)
                    gives.insert(path);
            });
    const auto* access = p.accessOf(device);
    if (access) {
        out.project.access.push_back(*access);
        for (const auto& one : access->allowed) {
            small.take(one.signal);
            if (one.sets && (one.signal.rfind(cuePrefix, 0) == 0 || one.signal.rfind(scenePrefix, 0) == 0))
                gives.insert(one.signal);
        }
    }
    for (const auto& moment : gives)
        if (const auto it = plan.takers.find(moment); it != plan.takers.end())
            out.takes[moment] = it->second;
    // What is shown here by order of others.
    for (const auto& [other, part] : plan.parts)
        if (other != device)
            for (const auto& id : part.surfaces)
                if (const auto* s = p.surface(id); s && showersOf(p, *s).count(device))
                    out.uses[surfacePrefix + id];
    // Moments that others give and it waits for.
    for (const auto& [moment, takers] : plan.takers)
        if (takers.count(device) && mine != plan.parts.end()) {
            const auto lead = plan.leaders.find(moment);
            const bool leads = lead != plan.leaders.end() && lead->second == device;
            auto& use = out.uses[moment];
            if (leads)
                use = {true, 0, 1};
        }

    if (out.uses.empty() && out.outside.empty() && out.takes.empty() && mine == plan.parts.end() && !access)
        return {};
    small.device(device);
    small.finish();
    const auto sceneValues = valuesBeside(out.project);
    json uses = json::object();
    for (const auto& [path, use] : out.uses)
        uses[path] = use.sets ? json{use.low, use.high} : json::array();
    const json all{{"as", device},
                   {"rules", out.share.rules},
                   {"atStart", out.share.scenes},
                   {"uses", uses},
                   {"tells", out.tells},
                   {"takes", listsOf(out.takes)},
                   {"shows", listsOf(out.shows)},
                   {"outside", out.outside},
                   {"scenes", sceneValues},
                   {"project", toJson(out.project)}};
    return all.dump(-1, ' ', false, json::error_handler_t::replace);
}

Result<RulePack> unpackRules(const std::string& text, const ModelSource& models) {
    if (text.size() > longestRulePack)
        return Error{"are longer than 3 MB", "rules", "Take some out."};
    auto j = parseJson(text, "rules");
    if (!j)
        return j.error();
    if (!j->is_object() || !j->contains("project") || !j->value("as", json()).is_string())
        return notPacked("as");
    RulePack out;
    out.as = (*j)["as"].get<std::string>();
    const auto names = [&](const json& list, const char* where, auto add) -> std::optional<Error> {
        if (!list.is_array() || list.size() > mostMoments)
            return notPacked(where);
        for (const auto& one : list) {
            if (!one.is_string() || one.get_ref<const std::string&>().size() > 500)
                return notPacked(where);
            add(one.get<std::string>());
        }
        return {};
    };
    const auto list = [&](const char* key, std::vector<std::string>& to) {
        return names(j->value(key, json()), key, [&](std::string id) { to.push_back(std::move(id)); });
    };
    const auto sets = [&](const char* key, std::map<std::string, std::set<std::string>>& to) -> std::optional<Error> {
        const auto all = j->value(key, json());
        if (!all.is_object() || all.size() > mostPaths)
            return notPacked(key);
        for (const auto& [path, devices] : all.items())
            if (const auto e = names(devices, key, [&, one = path](std::string id) { to[one].insert(std::move(id)); }))
                return e;
        return {};
    };
    for (const auto& e : {list("rules", out.share.rules), list("atStart", out.share.scenes),
                          list("outside", out.outside), sets("takes", out.takes), sets("shows", out.shows)})
        if (e)
            return *e;
    const auto uses = j->value("uses", json()), tells = j->value("tells", json());
    if (!uses.is_object() || !tells.is_object() || uses.size() > mostPaths || tells.size() > mostPaths)
        return notPacked("uses");
    for (const auto& [path, range] : uses.items()) {
        RuleUse use;
        if (!range.is_array() || (range.size() != 0 && range.size() != 2))
            return notPacked("uses");
        if (range.size() == 2) {
            if (!range[0].is_number() || !range[1].is_number())
                return notPacked("uses");
            use.sets = true, use.low = range[0].get<double>(), use.high = range[1].get<double>();
            if (!(use.low <= use.high))
                return notPacked("uses");
        }
        out.uses[path] = use;
    }
    for (const auto& [path, device] : tells.items()) {
        if (!device.is_string())
            return notPacked("tells");
        out.tells[path] = device.get<std::string>();
    }
    auto p = projectFromJson(std::move((*j)["project"]), models);
    if (!p)
        return Error{p.error().message, "rules/" + p.error().place, p.error().remedy};
    out.project = std::move(*p);
    if (!takeValues(out.project, j->value("scenes", json::object())))
        return notPacked("scenes");
    return out;
}

Result<Done> adoptRules(Project& p, const std::string& text) {
    const auto packed = unpackRules(text, ModelSource{});
    if (!packed)
        return packed.error();
    const std::set<std::string> own(packed->share.rules.begin(), packed->share.rules.end());
    std::set<std::string> gone;
    {
        Homes homes(p);
        for (const auto& r : p.rules)
            if (!own.count(r.id) && homes.of(r).device == packed->as)
                gone.insert(r.id);
    }
    erase_if(p.rules, [&](const Rule& r) { return gone.count(r.id) > 0; });
    for (const auto& r : packed->project.rules) {
        if (!own.count(r.id))
            continue;
        if (auto* mine = p.rule(r.id))
            *mine = r;
        else
            p.rules.push_back(r);
    }
    for (const auto& s : packed->project.scripts) {
        if (auto* mine = p.script(s.id))
            *mine = s;
        else
            p.scripts.push_back(s);
    }
    for (const auto& s : packed->project.scenes) {
        if (auto* mine = p.scene(s.id))
            *mine = s;
        else
            p.scenes.push_back(s);
    }
    if (const auto* theirs = packed->project.accessOf(packed->as)) {
        if (auto* mine = p.accessOf(packed->as))
            *mine = *theirs;
        else
            p.access.push_back(*theirs);
    } else {
        erase_if(p.access, [&](const Access& a) { return a.id == packed->as; });
    }
    return Done{};
}

std::string rulePackWords(const std::string& text) {
    const auto packed = unpackRules(text, ModelSource{});
    if (!packed)
        return "not readable";
    const auto rules = packed->share.rules.size(), scenes = packed->project.scenes.size();
    const auto counted = [](std::size_t n, const char* what) {
        return std::to_string(n) + " " + what + (n == 1 ? "" : "s");
    };
    const auto* access = packed->project.accessOf(packed->as);
    const auto open = access && access->any() ? ", open to others" : "";
    if (rules == 0 && scenes == 0)
        return access && access->any() ? "open to others" : "for rules elsewhere";
    return counted(rules, "rule") + ", " + counted(scenes, "scene") + open;
}

} // namespace loom::project
