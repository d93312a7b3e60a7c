#include "site/config.h"
#include "engine/block_kind.h"
#include "model/describe.h"
#include "program/file_prints.h"
#include "rules/rule_pack.h"
#include "surface/pack.h"
#include <algorithm>

namespace loom::site {

using nlohmann::json;
using project::Difference;

namespace {

const std::string nothing = "\u2014";

std::string nameOf(const Config& c, const std::string& id) {
    const auto it = c.surfaces.find(id);
    const auto j = it == c.surfaces.end() ? Result<json>(Error{}) : schema::parseJson(it->second, "");
    const json::json_pointer name("/project/surfaces/0/name");
    return j && j->is_object() && j->contains(name) && (*j)[name].is_string() ? (*j)[name].get<std::string>() : id;
}

// "3 pages, 41 controls, 5d1c0a".
std::string surfaceWords(const Config& c, const std::string& id) {
    const auto it = c.surfaces.find(id);
    if (it == c.surfaces.end() || it->second.empty())
        return nothing;
    const auto j = schema::parseJson(it->second, "");
    const json::json_pointer at("/project/surfaces/0/pages");
    std::size_t pages = 0, controls = 0;
    if (j && j->is_object() && j->contains(at) && (*j)[at].is_array())
        for (const auto& page : (*j)[at]) {
            ++pages;
            for (const auto& ply : page.is_object() && page.contains("plies") ? page["plies"] : json::array())
                if (ply.is_object() && ply.contains("controls"))
                    controls += ply["controls"].size();
        }
    return std::to_string(pages) + (pages == 1 ? " page, " : " pages, ") + std::to_string(controls) +
           (controls == 1 ? " control, " : " controls, ") + project::packPrint(it->second).substr(1, 6);
}

bool hasPort(const engine::Program& p, const engine::PortRef& at) {
    return p.find(at.block) != nullptr;
}

} // namespace

Config designOf(const project::Project& p, const project::Device& d) {
    Config c{d.program, project::setUpOf(d)};
    if (c.program)
        c.program = project::withFilePrints(std::move(*c.program), p.assets);
    if (const auto* m = d.spec(); m && m->network)
        c.rules = project::packRules(p, d.id);
    if (const auto* m = d.spec(); m && m->network)
        for (const auto* s : project::surfacesOn(p, d))
            c.surfaces[s->id] = project::packSurface(p, *s, d.id);
    return c;
}

std::map<std::string, std::string> surfacePrints(const Config& c) {
    std::map<std::string, std::string> prints;
    for (const auto& [id, text] : c.surfaces)
        if (!text.empty())
            prints[id] = project::packPrint(text);
    return prints;
}

std::string rulesPrint(const Config& c) {
    return c.rules.empty() ? std::string() : project::packPrint(c.rules);
}

std::optional<Config> lastSentOf(const project::Device& d) {
    if (!d.known.sent && !d.known.setUp && d.known.surfaces.empty() && d.known.rules.empty())
        return {};
    return Config{d.known.sent, d.known.setUp ? *d.known.setUp : project::SetUp{}, d.known.surfaces, d.known.rules};
}

Config preparedFrom(const project::Project& p, const project::Device& d) {
    auto design = designOf(p, d);
    auto last = lastSentOf(d);
    if (!last)
        return design;
    // Only prints of surfaces are remembered: those that are still as they were sent are there.
    for (auto it = last->surfaces.begin(); it != last->surfaces.end();) {
        const auto now = design.surfaces.find(it->first);
        if (now != design.surfaces.end() && project::packPrint(now->second) == it->second) {
            it->second = now->second;
            ++it;
        } else {
            it = last->surfaces.erase(it);
        }
    }
    last->rules = rulesPrint(design) == last->rules ? design.rules : std::string();
    return *last;
}

std::string checksum(const std::string& text) {
    return project::contentPrint(text);
}

std::string fingerprint(const Config& c) {
    Config whole = c;
    std::erase_if(whole.setUp, [](const auto& one) { return project::comesAndGoes(one.first) && one.second.empty(); });
    std::erase_if(whole.surfaces, [](const auto& one) { return one.second.empty(); });
    for (auto& [_, text] : whole.surfaces)
        text = project::packPrint(text);
    whole.rules = rulesPrint(whole);
    json j = schema::toJson(whole);
    if (c.program) {
        j["program"].erase("revision");
        for (auto& b : j["program"]["blocks"])
            b.erase("marks");
    }
    return checksum(j.dump(-1, ' ', false, json::error_handler_t::replace));
}

std::vector<Difference> differences(const Config& design, const Config& device, const Config* last) {
    std::vector<Difference> out;
    if (design.program && device.program) {
        out = project::differences(*design.program, *device.program, last && last->program ? &*last->program : nullptr);
    } else if (design.program || device.program) {
        Difference d;
        d.param = "program";
        d.what = "Program";
        const auto has = [](bool there) { return there ? std::string("there") : nothing; };
        d.last = has(last && last->program);
        d.design = has(design.program.has_value());
        d.device = has(device.program.has_value());
        d.changed = !last                                                     ? project::Changed::unknown
                    : last->program.has_value() != device.program.has_value() ? project::Changed::there
                                                                              : project::Changed::here;
        out.push_back(d);
    }
    std::set<std::string> shown;
    for (const auto* side : {&design, &device})
        for (const auto& [id, text] : side->surfaces)
            if (!text.empty())
                shown.insert(id);
    for (const auto& id : shown) {
        const auto printIn = [&](const Config& c) {
            const auto it = c.surfaces.find(id);
            return it == c.surfaces.end() || it->second.empty() ? std::string() : project::packPrint(it->second);
        };
        const auto mine = printIn(design), theirs = printIn(device);
        if (mine == theirs)
            continue;
        const auto words = [&](const Config& c) { return surfaceWords(c, id); };
        Difference d;
        d.param = "surface/" + id;
        d.what = "Touch surface \u00b7 " + (mine.empty() ? nameOf(device, id) : nameOf(design, id));
        d.design = words(design), d.device = words(device), d.last = nothing;
        if (last) {
            const auto was = printIn(*last);
            d.last = was.empty() ? nothing : was.substr(1, 6);
            d.changed = project::changedBy(was != mine, was != theirs);
        }
        out.push_back(d);
    }
    if (const auto here = rulesPrint(design), there = rulesPrint(device); here != there) {
        const auto words = [](const Config& c, const std::string& print) {
            return print.empty() ? nothing : project::rulePackWords(c.rules) + ", " + print.substr(1, 6);
        };
        Difference d;
        d.param = "rules";
        d.what = "Rules";
        d.design = words(design, here), d.device = words(device, there), d.last = nothing;
        if (last) {
            const auto was = rulesPrint(*last);
            d.last = was.empty() ? nothing : was.substr(1, 6);
            d.changed = project::changedBy(was != here, was != there);
        }
        out.push_back(d);
    }
    auto mine = design.setUp, theirs = device.setUp;
    project::nameMissing(mine, theirs);
    project::nameMissing(theirs, mine);
    for (const auto& [id, value] : mine) {
        const auto there = theirs.find(id);
        if (there == theirs.end() || there->second == value)
            continue;
        Difference d;
        d.param = "setUp/" + id;
        d.design = project::setUpWords(id, value);
        d.device = project::setUpWords(id, there->second);
        d.last = nothing;
        d.what = "Set-up \u00b7 " + project::setUpLabel(id);
        if (last && (last->setUp.count(id) || project::comesAndGoes(id))) {
            const auto was = project::setUpText(last->setUp, id);
            d.last = project::setUpWords(id, was);
            d.changed = project::changedBy(was != value, was != there->second);
        }
        out.push_back(d);
    }
    return out;
}

std::string keyOf(const Difference& d) {
    if (d.block.empty())
        return d.param.empty() ? "threads" : d.param;
    return d.param.empty() ? d.block : d.block + "." + d.param;
}

Config merged(const Config& design, const Config& device, const std::set<std::string>& keys) {
    Config out = design;
    if (keys.count("program") && device.program)
        out.program = device.program;
    for (const auto& [id, value] : device.setUp)
        if (keys.count("setUp/" + id))
            out.setUp[id] = value;
    if (keys.count("rules"))
        out.rules = device.rules;
    for (const auto& side : {design.surfaces, device.surfaces})
        for (const auto& [id, _] : side)
            if (keys.count("surface/" + id)) {
                const auto it = device.surfaces.find(id);
                out.surfaces[id] = it == device.surfaces.end() ? std::string() : it->second;
            }
    project::nameMissing(out.setUp, device.setUp); // streams and receivers that only the device has are to go
    if (!design.program || !device.program)
        return out;
    auto& blocks = out.program->blocks;
    for (const auto& b : device.program->blocks) {
        auto* mine = out.program->find(b.id);
        if (keys.count(b.id)) {
            if (mine)
                *mine = b;
            else
                blocks.push_back(b);
            continue;
        }
        if (!mine || mine->kind != b.kind || mine->shape != b.shape || !engine::findKind(b.kind))
            continue;
        const engine::BlockView theirs(b);
        for (std::size_t i = 0; i < theirs.values.size(); ++i) {
            const auto& spec = theirs.table->specs()[i];
            if (keys.count(b.id + "." + spec.id))
                theirs.values[i] == spec.def ? void(mine->values.erase(spec.id))
                                             : void(mine->values[spec.id] = theirs.values[i]);
        }
    }
    erase_if(blocks, [&](const auto& b) { return keys.count(b.id) && !device.program->find(b.id); });
    auto& connections = out.program->connections;
    if (keys.count("threads"))
        connections = device.program->connections;
    erase_if(connections,
             [&](const auto& t) { return !hasPort(*out.program, t.from) || !hasPort(*out.program, t.to); });
    return out;
}

} // namespace loom::site
