#include "program/load.h"
#include "engine/block_kind.h"
#include "engine/graph.h"
#include <algorithm>

namespace loom::project {

Load loadOf(const Device& device) {
    Load load;
    if (const auto* model = device.spec()) {
        load.workBudget = model->workBudget;
        load.memoryBudget = model->memoryBudget;
        load.inputPorts = static_cast<int>(model->ports(true).size());
        load.outputPorts = static_cast<int>(model->ports(false).size());
    }
    if (!device.program)
        return load;
    for (const auto& b : device.program->blocks) {
        load.inputs += engine::endOf(b) == engine::End::arrives;
        load.outputs += engine::endOf(b) == engine::End::leaves;
    }
    // Eight lanes run side by side at each level of the program; a gang that is not full takes as long as a full one.
    struct Gang {
        double work = 0;
        int lanes = 0;
    };
    std::map<std::pair<std::string, int>, Gang> gangs;
    const auto graph = engine::graphOf(*device.program);
    const auto& blocks = device.program->blocks;
    for (std::size_t i = 0; i < blocks.size(); ++i) {
        const auto* kind = engine::findKind(blocks[i].kind);
        if (!kind)
            continue;
        const auto shape = engine::fullShape(*kind, blocks[i]);
        const auto cost = kind->cost(shape, device.rate);
        load.memory += cost.memoryBytes;
        if (kind->flow != engine::Flow::ganged || !graph) {
            load.work += cost.work;
            continue;
        }
        auto& gang = gangs[{kind->family, graph->level[i]}];
        gang.work += cost.work;
        gang.lanes += std::max(kind->inputs(shape), kind->outputs(shape));
    }
    for (const auto& [where, gang] : gangs) {
        const int full = (gang.lanes + engine::laneCount - 1) / engine::laneCount * engine::laneCount;
        load.work += gang.work * full / std::max(1, gang.lanes);
    }
    return load;
}

std::vector<Dear> dearest(const Device& device, std::size_t most) {
    std::map<std::string, Dear> kinds;
    if (device.program)
        for (const auto& b : device.program->blocks)
            if (const auto* kind = engine::findKind(b.kind)) {
                const auto cost = kind->cost(engine::fullShape(*kind, b), device.rate);
                auto& d = kinds[b.kind];
                d.kind = b.kind;
                ++d.count;
                d.work += cost.work;
                d.memory += cost.memoryBytes;
            }
    std::vector<Dear> all;
    for (const auto& [id, d] : kinds)
        all.push_back(d);
    std::stable_sort(all.begin(), all.end(), [](const Dear& a, const Dear& b) { return a.work > b.work; });
    all.resize(std::min(all.size(), most));
    return all;
}

} // namespace loom::project
