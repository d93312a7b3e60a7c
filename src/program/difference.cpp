#include "program/difference.h"
#include "engine/block_kind.h"
#include "model/block_names.h"
#include <algorithm>

namespace loom::project {
namespace {

const std::string nothing = "\u2014";

Changed why(bool here, bool there, bool known) {
    return known ? changedBy(here, there) : Changed::unknown;
}

std::vector<engine::Connection> sorted(const List<engine::Connection>& connections) {
    std::vector<engine::Connection> t(connections.begin(), connections.end());
    std::sort(t.begin(), t.end());
    return t;
}

void compareValues(std::vector<Difference>& out, const engine::Program& design, const engine::Block& a,
                   const engine::Block& b, const engine::Block* last) {
    const engine::BlockView va(a), vb(b);
    std::optional<engine::BlockView> vl;
    if (last && last->kind == a.kind)
        vl.emplace(*last);
    for (std::size_t i = 0; i < va.values.size(); ++i) {
        if (va.values[i] == vb.values[i])
            continue;
        const auto& spec = va.table->specs()[i];
        const bool known = vl && vl->shape == va.shape;
        const double was = known ? vl->values[i] : 0;
        out.push_back({a.id, spec.id, blockName(design, a) + " \u00b7 " + spec.label,
                       known ? formatValue(spec, was) : nothing, formatValue(spec, va.values[i]),
                       formatValue(spec, vb.values[i]),
                       why(known && was != va.values[i], known && was != vb.values[i], known)});
    }
}

} // namespace

Changed changedBy(bool here, bool there) {
    return here && there ? Changed::both : here ? Changed::here : Changed::there;
}

std::string wordsOf(Changed changed) {
    switch (changed) {
    case Changed::here:
        return "changed here";
    case Changed::there:
        return "changed at the device";
    case Changed::both:
        return "changed on both sides";
    case Changed::older:
        return "older at the device";
    default:
        return "never sent from here";
    }
}

std::vector<Difference> differences(const engine::Program& design, const engine::Program& device,
                                    const engine::Program* last) {
    std::vector<Difference> out;
    const BlockNames names(design), others(device);
    for (const auto& a : design.blocks) {
        const auto* b = device.find(a.id);
        const auto* l = last ? last->find(a.id) : nullptr;
        const auto has = [](const engine::Block* x) { return x ? std::string("there") : nothing; };
        const bool same = b && b->kind == a.kind && b->shape == a.shape && b->texts == a.texts;
        if (same && engine::findKind(a.kind))
            compareValues(out, design, a, *b, l);
        else if (!same)
            out.push_back(
                {a.id, "", names.of(a), has(l), "there", b ? "another form" : nothing, why(!l, l && !b, last)});
    }
    for (const auto& b : device.blocks)
        if (!design.find(b.id)) {
            const bool known = last && last->find(b.id);
            out.push_back(
                {b.id, "", others.of(b), known ? "there" : nothing, nothing, "there", why(known, !known, last)});
        }
    const auto mine = sorted(design.connections), theirs = sorted(device.connections);
    if (mine != theirs) {
        const auto count = [](std::size_t n) { return std::to_string(n) + " threads"; };
        const auto was = last ? sorted(last->connections) : std::vector<engine::Connection>{};
        out.push_back({"", "", "Routing", last ? count(was.size()) : nothing, count(mine.size()), count(theirs.size()),
                       why(was != mine, was != theirs, last)});
    }
    return out;
}

} // namespace loom::project
