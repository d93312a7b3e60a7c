#include "site/config.h"
#include "engine/block_kind.h"
#include "model/describe.h"
#include <algorithm>
#include <cinttypes>

namespace loom::site {

using nlohmann::json;
using project::Difference;

namespace {

const std::string nothing = "\u2014";

bool hasPort(const engine::Program& p, const engine::PortRef& at) {
    return p.find(at.block) != nullptr;
}

} // namespace

Config designOf(const project::Device& d) {
    return {d.program, project::setUpOf(d)};
}

std::optional<Config> lastSentOf(const project::Device& d) {
    if (!d.known.sent && !d.known.setUp)
        return {};
    return Config{d.known.sent, d.known.setUp ? *d.known.setUp : project::SetUp{}};
}

// Fowler, Noll, Vo: draft-eastlake-fnv, the 64 bit variant 1a.
std::string checksum(const std::string& text) {
    std::uint64_t h = 0xcbf29ce484222325ull;
    for (const char c : text)
        h = (h ^ static_cast<unsigned char>(c)) * 0x100000001b3ull;
    char hex[20];
    std::snprintf(hex, sizeof hex, "%016" PRIx64, h);
    return hex;
}

std::string fingerprint(const Config& c) {
    Config whole = c;
    std::erase_if(whole.setUp, [](const auto& one) { return project::comesAndGoes(one.first) && one.second.empty(); });
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
