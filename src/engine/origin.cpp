#include "engine/origin.h"
#include "engine/graph.h"
#include <cmath>

namespace loom::engine {

bool goesOn(const BlockView& view, int in, int out) {
    const auto& kind = *view.kind;
    if (kind.passes)
        return kind.passes(view.shape, in, out);
    if (kind.channelwise()) // also where a notch lies just there, or it is muted
        return in == out;
    return std::abs(view.response(in, out, 1000, 48000)) > 1e-6;
}

std::map<PortRef, std::string> origins(const Program& program) {
    std::map<PortRef, std::string> of;
    const auto graph = graphOf(program);
    if (!graph)
        return of;
    std::vector<std::vector<const Connection*>> arriving(program.blocks.size());
    for (std::size_t i = 0; i < program.connections.size(); ++i)
        arriving[static_cast<std::size_t>(graph->connections[i].second)].push_back(&program.connections[i]);
    for (const int number : graph->order) {
        const Block& b = program.blocks[static_cast<std::size_t>(number)];
        const auto& feeds = arriving[static_cast<std::size_t>(number)];
        const auto originAt = [&](const Connection& t) {
            const auto it = of.find(t.from);
            return it == of.end() ? std::string() : it->second;
        };
        if (!findKind(b.kind) || isMatrix(b))
            continue;
        const BlockView view(b);
        const int ins = view.inputs(), outs = view.outputs();
        for (int o = 0; o < outs; ++o) {
            const Connection* only = nullptr;
            int count = 0;
            for (const Connection* t : feeds)
                if (t->to.port < ins && (ins == 1 || goesOn(view, t->to.port, o))) {
                    only = t;
                    ++count;
                }
            const std::string from = ins == 0 ? b.id : count == 1 ? originAt(*only) : "";
            if (!from.empty())
                of.emplace(PortRef{b.id, o}, from);
        }
    }
    return of;
}

} // namespace loom::engine
