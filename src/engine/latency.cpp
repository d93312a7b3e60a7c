#include "engine/latency.h"
#include "engine/block_kind.h"
#include "engine/graph.h"
#include <algorithm>

namespace loom::engine {

std::map<PortRef, Latency> latencies(const Program& program, double rate) {
    const auto graph = graphOf(program);
    if (!graph)
        return {};
    std::vector<std::vector<const Thread*>> arriving(program.blocks.size());
    for (std::size_t t = 0; t < program.threads.size(); ++t)
        arriving[static_cast<std::size_t>(graph->threads[t].second)].push_back(&program.threads[t]);
    std::map<PortRef, Latency> all;
    for (const int i : graph->order) {
        const Block& b = program.blocks[static_cast<std::size_t>(i)];
        const auto* kind = findKind(b.kind);
        if (!kind)
            continue;
        const BlockView view(b);
        const int own = kind->latency ? kind->latency(view.look(), rate) : 0;
        Latency sum;
        bool first = true;
        for (const Thread* t : arriving[static_cast<std::size_t>(i)]) {
            const auto from = all.find(t->from);
            if (from == all.end())
                continue;
            const Latency here = from->second;
            sum = first ? here : Latency{std::min(sum.least, here.least), std::max(sum.most, here.most)};
            first = false;
            if (view.outputs() == 0)
                all[t->to] = here;
        }
        for (int o = 0; o < view.outputs(); ++o)
            all[{b.id, o}] = {sum.least + own, sum.most + own};
    }
    return all;
}

int longestLatency(const Program& program, double rate) {
    int longest = 0;
    const auto all = latencies(program, rate);
    for (const auto& b : program.blocks)
        if (endOf(b) == End::leaves)
            if (const auto it = all.find({b.id, 0}); it != all.end())
                longest = std::max(longest, it->second.most);
    return longest;
}

} // namespace loom::engine
