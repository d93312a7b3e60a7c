#include "rules/rule_home.h"
#include "model/contact.h"
#include "model/set_up.h"
#include "rules/script.h"
#include <algorithm>
#include <map>

namespace loom::project {

bool runsRules(const Device& d) {
    return d.program && d.spec() && d.spec()->network && d.spec()->workBudget > 0 && !d.spec()->loudspeaker &&
           !d.spec()->microphone && !d.spec()->amplifier;
}

namespace {

bool hasRoom(const std::string& space, const std::string& room) {
    return !room.empty() && ("+" + space + "+").find("+" + room + "+") != std::string::npos;
}

void addScene(const Scene* s, std::set<std::string>& paths) {
    if (s)
        for (const auto& [path, _] : s->values)
            paths.insert(path);
}

} // namespace

std::set<std::string> pathsOf(const Project& p, const Rule& rule) {
    std::set<std::string> all;
    for (const auto* list : {&rule.when, &rule.only, &rule.then, &rule.otherwise})
        for (const auto& c : *list) {
            for (const auto& [slot, text] : c.gaps) {
                if (slot == "signal" || slot == "line" || slot == "cue")
                    all.insert(text);
                else if (slot == "player")
                    for (const char* param : {".play", ".item", ".level"})
                        all.insert(text + param);
                else if (slot == "scene")
                    addScene(p.scene(text), all);
                else if (slot == "script")
                    if (const auto* s = p.script(text))
                        for (const auto& path : quotedIn(s->text))
                            if (signalOf(p, path))
                                all.insert(path);
            }
        }
    all.erase("");
    return all;
}

Homes::Known& Homes::known(const std::string& path) {
    const auto [it, fresh] = known_.try_emplace(path);
    if (fresh)
        it->second.signal = signalOf(project_, path);
    return it->second;
}

const std::optional<Signal>& Homes::signal(const std::string& path) {
    return known(path).signal;
}

const std::string& Homes::teller(const std::string& path) {
    auto& one = known(path);
    if (!one.teller)
        one.teller = one.signal ? tellerOf(project_, *one.signal) : std::string();
    return *one.teller;
}

RuleHome Homes::in(const std::string& space, const std::set<std::string>& paths) {
    RuleHome home;
    std::map<std::string, int> uses;
    for (const auto& path : paths)
        if (const auto& device = teller(path); !device.empty())
            ++uses[device];
    // It stands there; else what is set of it counts, and after that whether ports of it belong there.
    int best = -1;
    for (const auto& d : project_.devices) {
        if (!runsRules(d))
            continue;
        const bool owns = std::any_of(d.owners.begin(), d.owners.end(), [&](const auto& one) {
            return hasRoom(space, one.second) || one.second == space;
        });
        const int rank =
            (hasRoom(space, d.room) ? 1000000 : 0) + 1000 * (uses.count(d.id) ? uses[d.id] : 0) + (owns ? 500 : 0);
        if (rank > best)
            best = rank, home.device = d.id;
    }
    for (const auto& [device, _] : uses)
        if (const auto* d = device == home.device ? nullptr : project_.device(device); d && runsRules(*d))
            home.others.insert(device);
    return home;
}

RuleHome Homes::of(const Rule& rule) {
    return in(rule.room, pathsOf(project_, rule));
}

RuleHome Homes::of(const Scene& scene) {
    std::set<std::string> paths;
    addScene(&scene, paths);
    return in(scene.room, paths);
}

RuleHome homeOf(const Project& p, const Rule& rule) {
    return Homes(p).of(rule);
}

RuleHome homeOf(const Project& p, const Scene& scene) {
    return Homes(p).of(scene);
}

RuleShare shareOf(const Project& p, const std::string& device) {
    RuleShare share;
    Homes homes(p);
    for (const auto& r : p.rules)
        if (homes.of(r).device == device)
            share.rules.push_back(r.id);
    for (const auto& s : p.scenes)
        if (s.atStart && homes.of(s).device == device)
            share.scenes.push_back(s.id);
    return share;
}

std::string processorOf(const Project& p, const OutsideDevice& d) {
    if (const auto* said = p.device(d.processor); said && runsRules(*said))
        return said->id;
    if (!d.processor.empty())
        return {};
    Scene nothing; // of its room alone
    nothing.room = d.room;
    return homeOf(p, nothing).device;
}

std::string tellerOf(const Project& p, const Signal& s) {
    if (!s.device.empty())
        return s.device;
    if (const auto rest = behind(s.path, outsidePrefix)) {
        const auto* d = p.outsideDevice(rest->substr(0, rest->find('/')));
        return d ? processorOf(p, *d) : std::string();
    }
    if (const auto wall = behind(s.path, wallPrefix)) {
        for (const auto& d : p.devices)
            for (const auto& [id, text] : d.contacts)
                if (const auto use = readContact(id, text);
                    use && use->kind == ContactUse::Kind::wall && use->wall == *wall)
                    return d.id;
        return {};
    }
    if (const auto space = behind(s.path, mutePrefix)) {
        // A processor first: it is there as long as its rules are.
        std::string any;
        for (const auto& d : p.devices) {
            bool part = false;
            for (const auto& [place, does] : d.mutes)
                part = part || ((does == "sets" || does == "shows") && spaceOfMute(d, place) == *space);
            for (const auto& [id, text] : d.contacts)
                if (const auto use = readContact(id, text); use && use->kind != ContactUse::Kind::none)
                    part = part || (use->kind != ContactUse::Kind::wall && use->space == *space);
            if (part && runsRules(d))
                return d.id;
            if (part && any.empty())
                any = d.id;
        }
        return any;
    }
    return {};
}

} // namespace loom::project
