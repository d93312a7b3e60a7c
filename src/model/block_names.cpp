#include "model/block_names.h"
#include "engine/block_kind.h"
#include <optional>

namespace loom::project {

using engine::Block;
using engine::End;

BlockNames::BlockNames(const engine::Program& program) : program_(program) {
    ways_.reserve(program.blocks.size());
    for (const auto& b : program.blocks)
        ways_.try_emplace(b.id).first->second.block = &b;
    for (const auto& t : program.connections) {
        if (const auto to = ways_.find(t.to.block); to != ways_.end()) {
            to->second.up = &t;
            ++to->second.ups;
        }
        if (const auto from = ways_.find(t.from.block); from != ways_.end()) {
            from->second.down = &t;
            ++from->second.downs;
        }
    }
}

namespace {

// `at`: from a block's id to its BlockNames::Ways.
template <class At> std::string nameOf(const engine::Program& program, const Block& block, At at) {
    if (!block.label.empty())
        return block.label;
    const auto* kind = engine::findKind(block.kind);
    const std::string name = kind ? kind->label : block.kind;
    std::string from;
    for (const bool up : {true, false}) {
        auto here = at(block.id);
        for (std::size_t steps = 0; here.block && steps <= program.blocks.size(); ++steps) {
            if ((up ? here.ups : here.downs) != 1)
                break;
            const auto& next = *(up ? here.up : here.down);
            here = at(up ? next.from.block : next.to.block);
            if (!here.block || here.block->id == block.id)
                break;
            const Block& b = *here.block;
            if (engine::endOf(b) == (up ? End::arrives : End::leaves))
                return b.label + " \u00b7 " + name;
            if (const auto* hub = engine::findKind(b.kind); up && hub && engine::outputsOf(program, b) > 1) {
                from = b.label.empty() ? hub->label : b.label;
                from += " " + engine::portName(*hub, engine::fullShape(*hub, b), false, next.from.port) + " \u00b7 ";
                break;
            }
        }
    }
    return from + name;
}

BlockNames::Ways waysOf(const engine::Program& program, const std::string& id) {
    BlockNames::Ways w{program.find(id)};
    for (const auto& t : program.connections) {
        if (t.to.block == id) {
            w.up = &t;
            ++w.ups;
        }
        if (t.from.block == id) {
            w.down = &t;
            ++w.downs;
        }
    }
    return w;
}

} // namespace

BlockNames::Ways BlockNames::at(const std::string& id) const {
    const auto it = ways_.find(id);
    return it == ways_.end() ? Ways{} : it->second;
}

std::string BlockNames::of(const Block& block) const {
    return nameOf(program_, block, [this](const std::string& id) { return at(id); });
}

std::string blockName(const engine::Program& program, const Block& block) {
    constexpr int few = 8;
    int asked = 0;
    std::optional<BlockNames> all;
    return nameOf(program, block, [&](const std::string& id) {
        if (++asked <= few)
            return waysOf(program, id);
        if (!all)
            all.emplace(program);
        return all->at(id);
    });
}

} // namespace loom::project
