#include "program/compare.h"
#include "engine/block_kind.h"

namespace loom::project {

using engine::Block;
using engine::Program;

namespace {

std::vector<std::string> blocksOf(const engine::Layout& layout, const Program& p, const std::string& lane) {
    std::vector<std::string> ids;
    if (lane.empty())
        for (const auto& b : p.blocks)
            ids.push_back(b.id);
    else if (const auto* l = layout.laneOf(lane)) {
        ids = l->beads;
        if (l->kind != engine::Layout::Kind::inner)
            ids.push_back(l->end);
    } else if (p.find(lane))
        ids.push_back(lane);
    return ids;
}

} // namespace

std::vector<std::string> changedSince(const Block& block, const Program& then) {
    std::vector<std::string> changed;
    if (!engine::findKind(block.kind))
        return changed;
    const auto* old = then.find(block.id);
    const bool same = old && old->kind == block.kind;
    if (same && old->values == block.values)
        return changed;
    const engine::BlockView now(block);
    for (const auto& s : now.table->specs()) {
        const auto valueIn = [&](const std::map<std::string, double>& values) {
            const auto it = values.find(s.id);
            return it == values.end() ? s.def : it->second;
        };
        if (valueIn(block.values) != (same ? valueIn(old->values) : s.def))
            changed.push_back(s.id);
    }
    return changed;
}

int countChanged(const engine::Layout& layout, const Program& now, const Program& then, const std::string& lane) {
    int count = 0;
    for (const auto& id : blocksOf(layout, now, lane)) {
        const auto* b = now.find(id);
        const auto* old = then.find(id);
        if (!b)
            continue;
        if (!old || old->kind != b->kind || old->shape != b->shape || old->texts != b->texts)
            ++count;
        else
            count += static_cast<int>(changedSince(*b, then).size());
    }
    for (const auto& b : then.blocks)
        count += lane.empty() && !now.find(b.id);
    return count;
}

Program withChainOf(const engine::Layout& layout, const Program& now, const Program& other, const std::string& lane) {
    Program n = now;
    for (const auto& id : blocksOf(layout, now, lane)) {
        auto* b = n.find(id);
        const auto* like = other.find(id);
        if (b && like && like->kind == b->kind && like->shape == b->shape)
            b->values = like->values;
    }
    return n;
}

} // namespace loom::project
